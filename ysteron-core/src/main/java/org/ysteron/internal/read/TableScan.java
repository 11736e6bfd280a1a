package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Optional;
import java.util.concurrent.Future;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Workers;

/**
 * The rows of a version that pass, file after file in the order of the tree. As many files as there
 * are threads are read ahead, each a few batches, never more: a worker that is ahead lets go of its
 * thread, so that scans that wait for each other cannot starve. Closing early stops the workers.
 * For one thread.
 */
public final class TableScan implements BatchSource {
  private static final int BATCHES_AHEAD = 4;

  private final ReadContext context;
  private final VersionPage table;
  private final ScanPlan plan;
  private final Schema wanted;
  private final Filter filter;
  private final Deque<Ahead> ahead = new ArrayDeque<>();
  private long left;
  private boolean planned;

  /**
   * Starts a scan.
   *
   * @param wanted the columns
   * @param limit at most so many rows
   */
  public TableScan(
      ReadContext context, VersionPage table, Schema wanted, Filter filter, long limit) {
    this.context = context;
    this.table = table;
    this.plan = new ScanPlan(table, filter, context.pages());
    this.wanted = wanted;
    this.filter = filter;
    this.left = limit;
  }

  @Override
  public Optional<Batch> next() {
    while (left > 0) {
      readAhead();
      Ahead first = ahead.peek();
      if (first == null) {
        return Optional.empty();
      }
      Optional<Batch> batch = first.take();
      if (batch.isEmpty()) {
        ahead.remove().close();
        continue;
      }
      Batch taken = batch.get().size() > left ? Gather.first(batch.get(), (int) left) : batch.get();
      left -= taken.size();
      return Optional.of(taken);
    }
    close();
    return Optional.empty();
  }

  private void readAhead() {
    while (!planned && ahead.size() < context.workers().threads()) {
      Optional<ScanPlan.Task> task = plan.next();
      if (task.isEmpty()) {
        planned = true;
        return;
      }
      ahead.add(new Ahead(new FileScan(context, table, task.get(), wanted, filter)));
      if (ahead.size() == 1) {
        continue; // the first file is read by the caller until a second one comes
      }
      ahead.forEach(Ahead::resume);
    }
  }

  @Override
  public void close() {
    planned = true;
    while (!ahead.isEmpty()) {
      ahead.remove().close();
    }
  }

  /** A file that is read by another thread, a few batches before they are wanted. */
  private final class Ahead {
    private final FileScan scan;
    private final Deque<Batch> ready = new ArrayDeque<>();
    private Future<Void> running;
    private boolean ended;
    private boolean closed;

    Ahead(FileScan scan) {
      this.scan = scan;
    }

    /** Lets a worker go on if none is at it and there is room. */
    synchronized void resume() {
      if (context.workers().threads() > 1
          && !ended
          && !closed
          && ready.size() < BATCHES_AHEAD
          && (running == null || running.isDone())) {
        running = context.workers().submit(this::work);
      }
    }

    private Void work() {
      while (true) {
        synchronized (this) {
          if (closed || ended || ready.size() >= BATCHES_AHEAD) {
            return null;
          }
        }
        Optional<Batch> batch = scan.next();
        synchronized (this) {
          batch.ifPresent(ready::add);
          ended = batch.isEmpty();
          notifyAll();
        }
      }
    }

    /** The next batch of this file; empty at its end. */
    Optional<Batch> take() {
      while (true) {
        Future<Void> waitFor;
        synchronized (this) {
          if (!ready.isEmpty()) {
            Batch batch = ready.remove();
            resume();
            return Optional.of(batch);
          }
          if (ended) {
            return Optional.empty();
          }
          waitForWorker();
          if (!ready.isEmpty() || ended) {
            continue;
          }
          waitFor = running;
        }
        if (waitFor != null) {
          Workers.get(waitFor);
        }
        synchronized (this) {
          if (!ready.isEmpty() || ended) {
            continue;
          }
        }
        Optional<Batch> own = scan.next();
        synchronized (this) {
          ended = own.isEmpty();
        }
        return own;
      }
    }

    /** Waits until the worker has put something; looks now and then, for it may have failed. */
    private synchronized void waitForWorker() {
      try {
        while (ready.isEmpty() && !ended && running != null && !running.isDone()) {
          wait(20);
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        throw new org.ysteron.error.YsteronException("Interrupted while reading.", e);
      }
    }

    void close() {
      Future<Void> waitFor;
      synchronized (this) {
        closed = true;
        waitFor = running;
      }
      if (waitFor != null) {
        Workers.awaitEnd(waitFor); // what it met no longer matters, but it still reads
      }
      scan.close();
    }
  }
}
