package org.ysteron.sql.catalog;

import org.ysteron.data.Schema;
import org.ysteron.sql.keep.Step;

/** A table whose rows a step makes, whatever they are made of. */
public final class OtherTable extends PlannedTable {
  private final Step step;
  private final double rows;

  /** {@code rows}: about how many there are. */
  public OtherTable(Step step, double rows) {
    this.step = step;
    this.rows = rows;
  }

  @Override
  public Schema columns() {
    return step.columns();
  }

  @Override
  public double rows() {
    return rows;
  }

  @Override
  public Step step() {
    return step;
  }
}
