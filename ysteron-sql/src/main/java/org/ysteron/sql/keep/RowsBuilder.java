package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;

/** Makes a batch of rows that come one by one, as values of their types' Java classes. */
public final class RowsBuilder {
  private final Schema columns;
  private final List<VectorBuilder> builders = new ArrayList<>();
  private int count;

  /** {@code room}: for how many rows there is room at first. */
  public RowsBuilder(Schema columns, int room) {
    this.columns = columns;
    columns.columns().forEach(column -> builders.add(new VectorBuilder(column.type(), room)));
  }

  /** Adds a row by the values of all columns, in their order. */
  public void add(@Nullable Object... values) {
    for (int c = 0; c < values.length; c++) {
      builders.get(c).add(values[c]);
    }
    count++;
  }

  public int size() {
    return count;
  }

  /** All rows; nothing can be added afterwards. */
  public Batch build() {
    List<Vector> vectors = builders.stream().map(VectorBuilder::buildLast).toList();
    return new Batch(columns.struct(), count, vectors);
  }
}
