package org.ysteron.internal.read;

import java.util.Iterator;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;

/** Rows of one batch after the other. For one thread. */
public final class RowSupplier {
  private final BatchSource source;
  private Iterator<Row> current = List.<Row>of().iterator();

  public RowSupplier(BatchSource source) {
    this.source = source;
  }

  /** The next row; null at the end. */
  public Row next() {
    while (!current.hasNext()) {
      Batch batch = source.next().orElse(null);
      if (batch == null) {
        return null;
      }
      current = batch.rows().iterator();
    }
    return current.next();
  }
}
