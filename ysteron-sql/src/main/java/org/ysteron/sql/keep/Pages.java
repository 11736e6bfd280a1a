package org.ysteron.sql.keep;

import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/**
 * Batches that wait in temporary files, a file each, and are read again by their numbers, in any
 * order; the files are gone when this is closed. For one thread.
 */
public final class Pages implements AutoCloseable {
  private final Schema columns;
  private final Running running;
  private final String what;
  private final Spill spill;
  private int count;

  /** {@code what}: what the rows are kept for, for people. */
  public Pages(Schema columns, Running running, String what) {
    this.columns = columns;
    this.running = running;
    this.what = what;
    this.spill = new Spill(columns, 1, running);
  }

  /** Puts a batch of at least one row away. */
  public void add(Batch batch) {
    spill.addRun(batch);
    count++;
  }

  /** How many batches there are. */
  public int count() {
    return count;
  }

  /** Reads a batch again; who asks releases it. */
  public Kept read(int number) {
    Kept kept = new Kept(columns, running, what);
    try (Source<SelectedBatch> rows = spill.rows(spill.files(0).get(number))) {
      rows.each(kept::add);
    }
    return kept;
  }

  @Override
  public void close() {
    spill.close();
  }
}
