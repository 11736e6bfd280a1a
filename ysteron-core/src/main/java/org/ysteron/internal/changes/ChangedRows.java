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
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeKind;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Differing;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * The rows in which two versions differ, with their values: deleted ones, then updated ones, then
 * inserted ones. Of updated rows those of a range of serials at a time are in memory as they were
 * before. For one thread.
 */
public final class ChangedRows implements Source<ChangedRows.Changed> {
  private final Comparison comparison;
  private final ReadContext context;
  private final Deque<Supplier<Phase>> phases = new ArrayDeque<>();
  private final Watch.Step step;
  private Phase phase;
  private long same;

  /**
   * Rows that differ in the same way.
   *
   * @param file the file of the later version that they are in; of deleted rows that of the earlier
   */
  public record Changed(ChangeBatch batch, FileEntry file) {}

  /**
   * Rows of one kind; of updated ones those of a range of serials.
   *
   * @param before the rows as they were before, unless they were inserted or deleted
   */
  private record Phase(ChangeKind kind, FilesScan rows, Optional<RowsBySerial> before) {}

  /** Serials from one on to before another one. */
  private record Range(long from, long behind) {}

  /** Reads nothing yet. */
  public ChangedRows(Comparison comparison, RowChanges changes) {
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
    phases.add(() -> phase(ChangeKind.INSERTED, to, changes.inserted()));
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
    Batch rows = read.rows();
    if (phase.before.isEmpty()) {
      boolean isDeleted = phase.kind == ChangeKind.DELETED;
      return new ChangeBatch(phase.kind, serials, isDeleted ? rows : null, isDeleted ? null : rows);
    }
    Batch before = phase.before.get().rows(serials);
    int[] differing = Gather.positions(Differing.rows(before, rows));
    same += serials.length - differing.length;
    if (differing.length == serials.length) {
      return new ChangeBatch(phase.kind, serials, before, rows);
    }
    long[] left = new long[differing.length];
    for (int i = 0; i < left.length; i++) {
      left[i] = serials[differing[i]];
    }
    return new ChangeBatch(
        phase.kind, left, Gather.rows(before, differing), Gather.rows(rows, differing));
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
