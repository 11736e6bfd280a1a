package org.ysteron;

import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.RewoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.changes.AppendedRows;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.read.RowSupplier;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.report.TableVersion;

/**
 * Reads the rows that were inserted into a table, version by version. It stores nothing between
 * runs: the caller keeps the number of the last version it has processed, and starts after it. Rows
 * that a version only updated, moved or deleted are not included. For one thread.
 *
 * <pre>{@code
 * Follower follower = readings.follow(lastDone);
 * while (running) {
 *   follower.await(Duration.ofSeconds(5)).ifPresent(step -> {
 *     step.rows().forEach(this::use);
 *     remember(step.version());
 *   });
 * }
 * }</pre>
 */
public final class Follower {
  private static final long SHORTEST_NANOS = 2_000_000;
  private static final long LONGEST_NANOS = 250_000_000;

  /** It waits for a hundredth of the time for which nothing came. */
  private static final long PATIENCE = 100;

  private final LakeCore core;
  private final Supplier<TableHistory> newest;
  private final String name;
  private long done;
  private @Nullable VersionPage before;
  private long lastCame = System.nanoTime();

  /** Starts behind a version. */
  Follower(LakeCore core, Supplier<TableHistory> newest, long done) {
    this.core = core;
    this.newest = newest;
    this.done = done;
    VersionPage now = newest.get().newest();
    this.name = now.name();
    if (done < -1 || done > now.version()) {
      throw new NotFoundException(
          NotFoundException.Kind.VERSION,
          String.valueOf(done),
          "Table %s has no version %d to start after: its versions are 0 to %d. Start with -1 to get the first version, too."
              .formatted(name, done, now.version()));
    }
  }

  /** What one version brought. */
  public final class Step {
    private final @Nullable VersionPage from;
    private final VersionPage to;
    private final HistoryRecord record;

    private Step(@Nullable VersionPage from, VersionPage to, HistoryRecord record) {
      this.from = from;
      this.to = to;
      this.record = record;
    }

    public long version() {
      return record.version();
    }

    /** When, by whom, what. */
    public TableVersion record() {
      return record.told();
    }

    /** The rows it brought, by column. */
    public Results<Batch> batches() {
      AppendedRows rows = delivering(() -> new AppendedRows(core.reading(), from, to));
      return new Results<>(() -> delivering(() -> rows.next().orElse(null)), rows::close);
    }

    /** The rows it brought. */
    public Results<Row> rows() {
      AppendedRows rows = delivering(() -> new AppendedRows(core.reading(), from, to));
      RowSupplier supplier = new RowSupplier(rows);
      return new Results<>(() -> delivering(supplier::next), rows::close);
    }

    /** When its rows cannot be delivered, the follower goes back before it. */
    private <T> T delivering(Supplier<T> part) {
      try {
        return part.get();
      } catch (RuntimeException | Error e) {
        if (done >= version()) {
          done = version() - 1;
          before = from;
        }
        throw e;
      }
    }
  }

  /** The version that was handed out last, and whose rows could be read if they were asked for. */
  public long version() {
    return done;
  }

  /**
   * The next version, if there is one now. One whose rows could not be read comes again.
   *
   * @throws RewoundException when it made an earlier version current again; it is not passed
   */
  public Optional<Step> poll() {
    TableHistory now = newest.get();
    if (now.newest().version() == done) {
      return Optional.empty();
    }
    VersionPage to = at(now, done + 1);
    if (to.record().marks().rewoundTo().isPresent()) {
      throw new RewoundException(name, to.version(), to.record().marks().rewoundTo().get());
    }
    VersionPage from = before;
    if (from == null && done >= 0) {
      from = at(now, done);
    }
    before = to;
    done++;
    return Optional.of(new Step(from, to, to.record()));
  }

  private static VersionPage at(TableHistory now, long version) {
    return now.pageOf(now.byNumber(version));
  }

  /** The next version, waited for; it looks now and then, less often the longer nothing comes. */
  public Optional<Step> await(Duration most) {
    long end = System.nanoTime() + most.toNanos();
    while (true) {
      Optional<Step> step = poll();
      long left = end - System.nanoTime();
      if (step.isPresent()) {
        lastCame = System.nanoTime();
      }
      if (step.isPresent() || left <= 0) {
        return step;
      }
      long quiet = (System.nanoTime() - lastCame) / PATIENCE;
      long pause = Math.max(SHORTEST_NANOS, Math.min(LONGEST_NANOS, quiet));
      try {
        TimeUnit.NANOSECONDS.sleep(Math.min(left, pause));
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        throw new YsteronException("Interrupted while waiting for a version of " + name + ".", e);
      }
    }
  }
}
