package org.ysteron.internal.evaluate;

import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.internal.compute.Compiler;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.compute.RowTest;
import org.ysteron.internal.compute.Rows;
import org.ysteron.internal.rows.Selections;
import org.ysteron.internal.typing.TypedTest;

/** A typed condition, ready to select rows. For one thread. */
public final class Selecting {
  private final RowTest test;
  private int[] found = {};

  public Selecting(TypedTest condition) {
    this.test = Compiler.test(Folding.fold(condition), false);
  }

  /**
   * Sets the bits of the rows for which the condition is true.
   *
   * @throws ComputeException when it cannot be told for a row
   */
  public void select(Batch table, long[] bits) {
    select(Rows.of(table), bits);
  }

  /**
   * Narrows a selection of rows.
   *
   * @param rows the positions of the rows that are tested, ascending
   * @param to gets the positions of those that pass; may be the array of rows itself
   * @return how many pass
   * @throws ComputeException when it cannot be told for a row
   */
  public int select(Batch table, int[] rows, int count, int[] to) {
    return test.select(Rows.of(table).only(rows, count), to);
  }

  /** The same for rows of a table and of a source, side by side. */
  public void select(Optional<Batch> table, Optional<Batch> source, int size, long[] bits) {
    select(Rows.of(table, source, size), bits);
  }

  private void select(Rows rows, long[] bits) {
    if (found.length < rows.size()) {
      found = new int[rows.size()];
    }
    Selections.mark(found, test.select(rows, found), bits);
  }
}
