package org.ysteron.internal.changes;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Type;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeKind;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Differing;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * The rows in which two versions differ, with their values: deleted ones, then updated ones, then
 * inserted ones, and if wanted those that do not differ. Of updated rows those of a range of
 * serials at a time are in memory as they were before. For one thread.
 */
public final class ChangedRows implements Source<ChangedRows.Changed> {
  private final Comparison comparison;
  private final ReadContext context;
  private final Deque<Supplier<Phase>> phases = new ArrayDeque<>();
  private final Watch.Step step;
  private final boolean withUnchanged;
  private final int columns;
  private Phase phase;
  private long same;
  private Optional<Changed> unchanged = Optional.empty();

  /** Finds what rows were before. */
  public interface Before {

    /**
     * The rows that some rows were, in their order.
     *
     * @param after the rows as they are after it, with more columns than are shown
     * @param serials their serials
     */
    Batch of(FileRows after, long[] serials);
  }

  /** Rows of the later version, each with one of the earlier. */
  public record Pairs(FilesScan after, Before before) {}

  /**
   * Rows that differ in the same way.
   *
   * @param file the file of the later version that they are in; of deleted rows that of the earlier
   */
  public record Changed(ChangeBatch batch, FileEntry file) {}

  /**
   * Rows of one kind; of updated ones those of a range of serials.
   *
   * @param before finds the rows as they were before, unless they were inserted or deleted
   */
  private record Phase(ChangeKind kind, FilesScan rows, Optional<Before> before) {}

  /** Serials from one on to before another one. */
  private record Range(long from, long behind) {}

  /** Reads nothing yet. */
  public ChangedRows(Comparison comparison, RowChanges changes) {
    this(comparison, changes, List.of(), false);
  }

  /**
   * Reads nothing yet.
   *
   * @param pairs more updated rows
   * @param withUnchanged whether rows that do not differ are told, too
   */
  public ChangedRows(
      Comparison comparison,
      RowChanges changes,
      List<Supplier<Pairs>> pairs,
      boolean withUnchanged) {
    this.withUnchanged = withUnchanged;
    this.columns = comparison.shown().columns().size();
    this.comparison = comparison;
    this.context = comparison.context();
    VersionPage from = comparison.from();
    VersionPage to = comparison.to();
    phases.add(() -> phase(ChangeKind.DELETED, from, changes.deleted()));
    for (Range range : ranges(changes)) {
      phases.add(
          () ->
              new Phase(
                  ChangeKind.UPDATED,
                  scan(to, among(to, changes.after(), range)),
                  Optional.of(RowsBySerial.of(scan(from, among(from, changes.before(), range))))));
    }
    for (Supplier<Pairs> each : pairs) {
      phases.add(
          () -> {
            Pairs found = each.get();
            return new Phase(ChangeKind.UPDATED, found.after(), Optional.of(found.before()));
          });
    }
    phases.add(() -> phase(ChangeKind.INSERTED, to, changes.inserted()));
    if (withUnchanged) {
      phases.add(() -> new Phase(ChangeKind.UNCHANGED, others(changes), Optional.empty()));
    }
    long rows =
        RowChanges.rows(changes.deleted())
            + RowChanges.rows(changes.after())
            + RowChanges.rows(changes.inserted());
    this.step = context.watch().step("read changed rows", Progress.Unit.ROWS, rows);
  }

  private static List<Range> ranges(RowChanges changes) {
    List<Range> all = new ArrayList<>();
    if (!changes.after().isEmpty()) {
      long from = Long.MIN_VALUE;
      for (long bound : changes.bounds()) {
        all.add(new Range(from, bound));
        from = bound;
      }
      all.add(new Range(from, Long.MAX_VALUE));
    }
    return all;
  }

  private Phase phase(ChangeKind kind, VersionPage version, Map<FileEntry, RoaringBitmap> places) {
    return new Phase(kind, scan(version, places), Optional.empty());
  }

  /** The rows of the later version that are neither inserted nor written again. */
  private FilesScan others(RowChanges changes) {
    VersionPage to = comparison.to();
    Filter filter = comparison.filter(to);
    SerialFinder finder = new SerialFinder(context, to);
    ScanPlan plan = new ScanPlan(to, filter, context);
    return FilesScan.told(
        context,
        () ->
            plan.next()
                .map(
                    task -> {
                      RoaringBitmap other = new RoaringBitmap();
                      other.or(changes.inserted().getOrDefault(task.entry(), other));
                      other.or(changes.after().getOrDefault(task.entry(), other));
                      RoaringBitmap rest = other.isEmpty() ? null : finder.live(task.entry(), null);
                      if (rest != null) {
                        rest.andNot(other);
                      }
                      return new FilesScan.Part(task, rest);
                    }),
        comparison.shown(),
        filter);
  }

  private FilesScan scan(VersionPage version, Map<FileEntry, RoaringBitmap> places) {
    List<FilesScan.Part> parts = new ArrayList<>();
    places.forEach((file, rows) -> parts.add(FilesScan.Part.of(version, file, rows)));
    return FilesScan.told(context, parts, comparison.shown());
  }

  /** Those of some rows whose serials are in a range. */
  private Map<FileEntry, RoaringBitmap> among(
      VersionPage version, Map<FileEntry, RoaringBitmap> places, Range range) {
    if (range.from == Long.MIN_VALUE && range.behind == Long.MAX_VALUE) {
      return places;
    }
    SerialFinder finder = new SerialFinder(context, version);
    Map<FileEntry, RoaringBitmap> some = new LinkedHashMap<>();
    places.forEach(
        (file, rows) -> {
          RoaringBitmap at = new RoaringBitmap();
          if (file.mayHoldSerials(Math.max(0, range.from), range.behind - 1)) {
            finder.visit(
                file,
                rows,
                (serial, birth, position) -> {
                  if (serial >= range.from && serial < range.behind) {
                    at.add(position);
                  }
                });
          }
          if (!at.isEmpty()) {
            some.put(file, at);
          }
        });
    return some;
  }

  /** How many of the rows so far were written again with the values that they had. */
  public long same() {
    return same;
  }

  @Override
  public Optional<Changed> next() {
    if (unchanged.isPresent()) {
      Optional<Changed> next = unchanged;
      unchanged = Optional.empty();
      return next;
    }
    while (phase != null || !phases.isEmpty()) {
      if (phase == null) {
        phase = phases.remove().get();
      }
      Optional<FileRows> rows = phase.rows.next();
      if (rows.isEmpty()) {
        endPhase();
      } else {
        step.add(rows.get().size());
        ChangeBatch batch = batch(rows.get());
        if (batch.size() == 0 && unchanged.isPresent()) {
          return next();
        }
        if (batch.size() > 0) {
          return Optional.of(new Changed(batch, rows.get().file()));
        }
      }
    }
    return Optional.empty();
  }

  private ChangeBatch batch(FileRows read) {
    long[] serials = new long[read.size()];
    for (int i = 0; i < serials.length; i++) {
      serials[i] = read.serial(i);
    }
    Batch rows = shown(read.rows());
    if (phase.before.isEmpty()) {
      return new ChangeBatch(
          phase.kind,
          serials,
          phase.kind == ChangeKind.INSERTED ? null : rows,
          phase.kind == ChangeKind.DELETED ? null : rows);
    }
    Batch before = shown(phase.before.get().of(read, serials));
    int[] differing = Gather.positions(Differing.rows(before, rows));
    same += serials.length - differing.length;
    if (differing.length == serials.length) {
      return new ChangeBatch(phase.kind, serials, before, rows);
    }
    if (withUnchanged) {
      int[] alike = Gather.positions(not(Differing.rows(before, rows), serials.length));
      Batch both = Gather.rows(rows, alike);
      unchanged =
          Optional.of(
              new Changed(
                  new ChangeBatch(ChangeKind.UNCHANGED, pick(serials, alike), both, both),
                  read.file()));
    }
    return new ChangeBatch(
        phase.kind,
        pick(serials, differing),
        Gather.rows(before, differing),
        Gather.rows(rows, differing));
  }

  private static long[] not(long[] bits, int count) {
    for (int i = 0; i < bits.length; i++) {
      bits[i] = ~bits[i];
    }
    if (count % 64 != 0) {
      bits[bits.length - 1] &= (1L << count) - 1;
    }
    return bits;
  }

  private static long[] pick(long[] from, int[] positions) {
    long[] picked = new long[positions.length];
    for (int i = 0; i < picked.length; i++) {
      picked[i] = from[positions[i]];
    }
    return picked;
  }

  /** Without columns that are not shown. */
  private Batch shown(Batch rows) {
    return rows.vectors().size() == columns
        ? rows
        : new Batch(
            new Type.Struct(rows.columns().fields().subList(0, columns)),
            rows.size(),
            rows.vectors().subList(0, columns));
  }

  private void endPhase() {
    if (phase != null) {
      phase.rows.close();
      phase = null;
    }
  }

  @Override
  public void close() {
    endPhase();
    phases.clear();
  }
}
