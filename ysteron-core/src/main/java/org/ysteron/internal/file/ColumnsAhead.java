package org.ysteron.internal.file;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import org.ysteron.data.Vector;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.column.ColumnSource;
import org.ysteron.internal.work.Workers;

/**
 * The columns of a row group, decoded side by side, batch after batch: workers go a few batches
 * ahead of who takes them, always with the column that is least far, and whoever takes decodes what
 * no worker has begun, so that nobody waits for a thread that is not there. So little is ahead that
 * it is still in the processor's cache when it is taken. One thread takes.
 */
final class ColumnsAhead {
  private static final int BATCHES_AHEAD = 4;

  private final Workers workers;
  private final List<RowSpan> batches;
  private final List<Column> columns = new ArrayList<>();
  private int taken;
  private int helpers;
  private boolean closed;

  /** How far a column is. */
  private static final class Column {
    private final ColumnSource source;
    private final Deque<Vector> ready = new ArrayDeque<>();
    private int decoded;
    private boolean busy;
    private Throwable failure;

    Column(ColumnSource source) {
      this.source = source;
    }
  }

  /**
   * Decodes nothing yet.
   *
   * @param batches the rows of each batch, counted in the row group, ascending
   */
  ColumnsAhead(Workers workers, List<ColumnSource> sources, List<RowSpan> batches) {
    this.workers = workers;
    this.batches = batches;
    sources.forEach(source -> columns.add(new Column(source)));
  }

  /** The vectors of the next batch; there must be one. */
  List<Vector> take() {
    callHelpers();
    for (Column own = nextOwn(); own != null; own = nextOwn()) {
      decode(own);
    }
    synchronized (this) {
      taken++;
      return columns.stream().map(column -> column.ready.remove()).toList();
    }
  }

  /** A column for who takes to decode; null when the next batch is there. */
  private synchronized Column nextOwn() {
    try {
      while (columns.stream().anyMatch(column -> column.decoded <= taken)) {
        Column own = next();
        if (own != null) {
          return own;
        }
        throwFailure();
        wait();
      }
      return null;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new YsteronException("Interrupted while reading.", e);
    }
  }

  /** Throws what went wrong with a column that is needed now. */
  private void throwFailure() {
    for (Column column : columns) {
      if (column.decoded == taken && column.failure instanceof Error error) {
        throw error;
      }
      if (column.decoded == taken && column.failure instanceof RuntimeException failure) {
        throw failure;
      }
    }
  }

  /** The column that is least far of those that nobody is at; null when all are far enough. */
  private Column next() {
    int limit = Math.min(batches.size(), taken + BATCHES_AHEAD);
    Column least = null;
    for (Column column : columns) {
      boolean open = !column.busy && column.failure == null && column.decoded < limit;
      if (open && (least == null || column.decoded < least.decoded)) {
        least = column;
      }
    }
    if (least != null) {
      least.busy = true;
    }
    return least;
  }

  private void decode(Column column) {
    Vector vector = null;
    Throwable failure = null;
    try {
      RowSpan rows = batches.get(column.decoded);
      vector = column.source.read(rows.from(), (int) (rows.to() - rows.from()));
    } catch (RuntimeException | Error e) {
      failure = e;
    }
    synchronized (this) {
      column.busy = false;
      column.failure = failure;
      if (failure == null) {
        column.ready.add(vector);
        column.decoded++;
      }
      notifyAll();
    }
  }

  private synchronized void callHelpers() {
    int most = Math.min(workers.threads(), columns.size()) - 1;
    while (helpers < most && !closed) {
      helpers++;
      workers.begin(this::help);
    }
  }

  private void help() {
    while (true) {
      Column column;
      synchronized (this) {
        column = closed ? null : next();
        if (column == null) {
          helpers--;
          return;
        }
      }
      decode(column);
    }
  }

  /** Ends it, when those who are at a column have put it down. */
  synchronized void close() {
    closed = true;
    boolean interrupted = false;
    while (columns.stream().anyMatch(column -> column.busy)) {
      try {
        wait();
      } catch (InterruptedException e) {
        interrupted = true; // they still read what is to be closed
      }
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
  }
}
