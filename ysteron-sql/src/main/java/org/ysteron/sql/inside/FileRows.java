package org.ysteron.sql.inside;

import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.TextRow;
import org.ysteron.error.CancelledException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.intake.OutsideFile;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.RowsBuilder;
import org.ysteron.sql.keep.Running;

/**
 * Reads a file in a thread of its own, a few batches ahead: the reader hands rows over, and the
 * query asks for them. Closing ends the thread.
 */
final class FileRows implements Source<SelectedBatch> {
  private static final int BATCH = 1024;
  private static final int AHEAD = 4;
  private static final long NO_ENTRY = -1;

  private final Schema columns;
  private final Running running;
  private final BlockingQueue<Told> queue = new ArrayBlockingQueue<>(AHEAD);
  private final Thread reader;
  private boolean ended;
  private volatile boolean closed;

  /** Rows, or that there are no more, or why not. */
  private record Told(@Nullable Batch batch, @Nullable RuntimeException failure) {}

  FileRows(OutsideFile file, Schema columns, Running running) {
    this.columns = columns;
    this.running = running;
    this.reader = new Thread(() -> read(file), "ysteron reads a file");
    reader.setDaemon(true);
    reader.start();
  }

  private void read(OutsideFile file) {
    Sink sink = new Sink();
    try {
      file.read(columns, sink);
      sink.hand();
      tell(new Told(null, null));
    } catch (InvalidInputException e) {
      String what = String.valueOf(e.getMessage()).replace(" Nothing was changed.", "");
      told(new InvalidInputException(what, e));
    } catch (RuntimeException e) {
      told(e);
    }
  }

  private void told(RuntimeException failure) {
    if (!closed) {
      tell(new Told(null, failure));
    }
  }

  private void tell(Told told) {
    try {
      queue.put(told);
    } catch (InterruptedException e) {
      throw new CancelledException(NO_ENTRY);
    }
  }

  @Override
  public Optional<SelectedBatch> next() {
    if (ended) {
      return Optional.empty();
    }
    Told told;
    try {
      told = queue.take();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      close();
      throw new CancelledException(NO_ENTRY);
    }
    if (told.failure != null) {
      ended = true;
      throw told.failure;
    }
    if (told.batch == null) {
      ended = true;
      return Optional.empty();
    }
    return Optional.of(new SelectedBatch(told.batch, null, told.batch.size()));
  }

  @Override
  public void close() {
    closed = true;
    ended = true;
    reader.interrupt();
    boolean interrupted = false;
    while (reader.isAlive()) {
      try {
        reader.join();
      } catch (InterruptedException e) {
        interrupted = true;
      }
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
  }

  /** Takes the rows of the file by the values of its columns, which is all that a reader gives. */
  private final class Sink implements RowSink {
    private RowsBuilder rows = new RowsBuilder(columns, BATCH);

    @Override
    public RowSink add(@Nullable Object... values) {
      rows.add(values);
      if (rows.size() == BATCH) {
        hand();
      }
      return this;
    }

    void hand() {
      running.check();
      if (rows.size() > 0) {
        tell(new Told(rows.build(), null));
        rows = new RowsBuilder(columns, BATCH);
      }
    }

    @Override
    public RowSink addRow(Row row) {
      throw new UnsupportedOperationException("files give values");
    }

    @Override
    public RowSink addRecord(Record record) {
      throw new UnsupportedOperationException("files give values");
    }

    @Override
    public RowSink addBatch(Batch batch) {
      throw new UnsupportedOperationException("files give values");
    }

    @Override
    public RowSink addObject(Map<String, @Nullable Object> members) {
      throw new UnsupportedOperationException("files give values");
    }

    @Override
    public RowSink addText(TextRow row) {
      throw new UnsupportedOperationException("files give values");
    }
  }
}
