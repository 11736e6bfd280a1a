package org.ysteron.internal.changes;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
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
 * inserted ones. Of updated rows those of a range of serials at a time are in memory as they were
 * before. With those that do not differ, too, all rows of the earlier version are read once, and
 * the updated ones are in memory as they are after it. For one thread.
 */
public final class ChangedRows implements Source<ChangedRows.Changed> {
  private final Comparison comparison;
  private final ReadContext context;
  private final Deque<Supplier<Phase>> phases = new ArrayDeque<>();
  private final Watch.Step step;
  private final boolean withUnchanged;
  private final RowChanges changes;
  private final Paired paired;
  private final int columns;
  private Phase phase;
  private long same;
  private final Deque<Changed> ready = new ArrayDeque<>();

  /** Rows of the later version, each with one of the earlier. */
  public record Pairs(FilesScan after, RowsBefore before) {}

  /**
   * More updated rows.
   *
   * @param before where they are in the earlier version
   * @param parts all of them
   */
  public record Paired(Map<FileEntry, RoaringBitmap> before, List<Supplier<Pairs>> parts) {
    public static final Paired NONE = new Paired(Map.of(), List.of());
  }

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
  private record Phase(ChangeKind kind, FilesScan rows, Optional<RowsBefore> before) {
    /** All rows of the earlier version, of which some were changed. */
    boolean isWhole() {
      return kind == ChangeKind.UNCHANGED;
    }
  }

  /** Serials from one on to before another one. */
  private record Range(long from, long behind) {}

  /** Reads nothing yet. */
  public ChangedRows(Comparison comparison, RowChanges changes) {
    this(comparison, changes, Paired.NONE, false);
  }

  /**
   * Reads nothing yet.
   *
   * @param paired more updated rows
   * @param withUnchanged whether rows that do not differ are told, too
   */
  public ChangedRows(
      Comparison comparison, RowChanges changes, Paired paired, boolean withUnchanged) {
    this.changes = changes;
    this.paired = paired;
    this.withUnchanged = withUnchanged;
    this.columns = comparison.shown().columns().size();
    this.comparison = comparison;
    this.context = comparison.context();
    VersionPage from = comparison.from();
    VersionPage to = comparison.to();
    List<Range> ranges = ranges(changes);
    boolean isOnePass = withUnchanged && ranges.size() <= 1;
    if (isOnePass) {
      phases.add(
          () ->
              new Phase(
                  ChangeKind.UNCHANGED,
                  earlier(false),
                  Optional.of(RowsBySerial.of(scan(to, changes.after())))));
    } else {
      phases.add(() -> phase(ChangeKind.DELETED, from, changes.deleted()));
    }
    for (Range range : isOnePass ? List.<Range>of() : ranges) {
      phases.add(
          () ->
              new Phase(
                  ChangeKind.UPDATED,
                  scan(to, among(to, changes.after(), range)),
                  Optional.of(RowsBySerial.of(scan(from, among(from, changes.before(), range))))));
    }
    for (Supplier<Pairs> each : paired.parts()) {
      phases.add(
          () -> {
            Pairs found = each.get();
            return new Phase(ChangeKind.UPDATED, found.after(), Optional.of(found.before()));
          });
    }
    phases.add(() -> phase(ChangeKind.INSERTED, to, changes.inserted()));
    if (withUnchanged && !isOnePass) {
      phases.add(() -> new Phase(ChangeKind.UNCHANGED, earlier(true), Optional.empty()));
    }
    long rows =
        RowChanges.rows(changes.deleted())
            + RowChanges.rows(changes.after())
            + RowChanges.rows(changes.inserted())
            + RowChanges.rows(paired.before());
    this.step =
        withUnchanged
            ? context.watch().step("read changed rows", Progress.Unit.ROWS)
            : context.watch().step("read changed rows", Progress.Unit.ROWS, rows);
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

  /**
   * The rows of the earlier version but for those that are paired by key.
   *
   * @param onlyOthers without those that were changed, too
   */
  private FilesScan earlier(boolean onlyOthers) {
    VersionPage from = comparison.from();
    Filter filter = comparison.filter(from);
    SerialFinder finder = new SerialFinder(context, from);
    ScanPlan plan = new ScanPlan(from, filter, context);
    return FilesScan.told(
        context,
        () ->
            plan.next()
                .map(
                    task -> {
                      FileEntry file = task.entry();
                      RoaringBitmap without = at(paired.before(), file).clone();
                      if (onlyOthers) {
                        without.or(at(changes.deleted(), file));
                        without.or(at(changes.before(), file));
                      }
                      RoaringBitmap rest = without.isEmpty() ? null : finder.live(file, null);
                      if (rest != null) {
                        rest.andNot(without);
                      }
                      return new FilesScan.Part(task, rest);
                    }),
        comparison.shown(),
        filter);
  }

  private static RoaringBitmap at(Map<FileEntry, RoaringBitmap> places, FileEntry file) {
    return places.getOrDefault(file, new RoaringBitmap());
  }

  private FilesScan scan(VersionPage version, Map<FileEntry, RoaringBitmap> places) {
    return FilesScan.told(context, version, places, comparison.shown());
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
    while (ready.isEmpty() && (phase != null || !phases.isEmpty())) {
      if (phase == null) {
        phase = phases.remove().get();
      }
      Optional<FileRows> rows = phase.rows.next();
      if (rows.isEmpty()) {
        endPhase();
      } else {
        step.add(rows.get().size());
        take(rows.get());
      }
    }
    return Optional.ofNullable(ready.poll());
  }

  private void take(FileRows read) {
    if (phase.isWhole() && phase.before.isPresent()) {
      takeWhole(read);
    } else if (phase.before.isEmpty()) {
      Batch rows = shown(read.rows());
      ready(
          read,
          phase.kind,
          serials(read, null),
          phase.kind == ChangeKind.INSERTED ? null : rows,
          phase.kind == ChangeKind.DELETED ? null : rows);
    } else {
      long[] serials = serials(read, null);
      compare(read, serials, shown(phase.before.get().of(read, serials)), shown(read.rows()));
    }
  }

  /** Rows of the earlier version, whatever became of them. */
  private void takeWhole(FileRows read) {
    long[] gone = among(read, at(changes.deleted(), read.file()));
    long[] again = among(read, at(changes.before(), read.file()));
    Batch rows = read.rows();
    long[] kept = new long[gone.length];
    for (int i = 0; i < kept.length; i++) {
      kept[i] = gone[i] | again[i];
    }
    kept = not(kept, read.size());
    int[] deleted = Gather.positions(gone);
    int[] updated = Gather.positions(again);
    Batch left = Gather.rows(rows, deleted);
    Batch before = Gather.rows(rows, updated);
    Batch others = Gather.keep(rows, kept); // moves rows in place, so that it comes last
    boolean isAll = others.size() == read.size();
    ready(
        read,
        ChangeKind.UNCHANGED,
        serials(read, isAll ? null : Gather.positions(kept)),
        others,
        others);
    ready(read, ChangeKind.DELETED, serials(read, deleted), left, null);
    if (updated.length > 0) {
      long[] serials = serials(read, updated);
      compare(read, serials, before, phase.before.orElseThrow().of(read, serials));
    }
  }

  /** Which of some rows are at some places of their file. */
  private static long[] among(FileRows read, RoaringBitmap places) {
    int size = read.size();
    int last = read.position(size - 1);
    long[] bits = new long[(size + 63) >> 6];
    PeekableIntIterator next = places.getIntIterator();
    next.advanceIfNeeded(read.position(0));
    int row = 0;
    while (row < size && next.hasNext() && next.peekNext() <= last) {
      row = Math.max(row, size - 1 - (last - next.peekNext())); // positions ascend
      int at = read.position(row);
      if (at < next.peekNext()) {
        row++;
      } else if (at > next.peekNext()) {
        next.advanceIfNeeded(at);
      } else {
        bits[row >> 6] |= 1L << row;
        row++;
        next.next();
      }
    }
    return bits;
  }

  /** The serials of some rows, or all for null. */
  private static long[] serials(FileRows read, int[] some) {
    long[] serials = new long[some == null ? read.size() : some.length];
    for (int i = 0; i < serials.length; i++) {
      serials[i] = read.serial(some == null ? i : some[i]);
    }
    return serials;
  }

  /** Rows that were written again, of which some have the values that they had. */
  private void compare(FileRows read, long[] serials, Batch before, Batch after) {
    long[] bits = Differing.rows(before, after);
    int[] differing = Gather.positions(bits);
    same += serials.length - differing.length;
    if (differing.length == serials.length) {
      ready(read, ChangeKind.UPDATED, serials, before, after);
      return;
    }
    ready(
        read,
        ChangeKind.UPDATED,
        pick(serials, differing),
        Gather.rows(before, differing),
        Gather.rows(after, differing));
    if (withUnchanged) {
      int[] alike = Gather.positions(not(bits, serials.length));
      Batch both = Gather.rows(after, alike);
      ready(read, ChangeKind.UNCHANGED, pick(serials, alike), both, both);
    }
  }

  private void ready(FileRows read, ChangeKind kind, long[] serials, Batch before, Batch after) {
    if (serials.length > 0) {
      ready.add(new Changed(new ChangeBatch(kind, serials, before, after), read.file()));
    }
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
    return Gather.columns(rows, columns);
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
    ready.clear();
  }
}
