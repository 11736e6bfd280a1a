package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * Finds the rows in which two versions differ.
 *
 * <p>Let <i>O</i> be the rows that count in the earlier version and do not count at the same
 * position of the same file in the later one, and <i>W</i> those the other way round. They follow
 * from the file trees and row masks. Rows of both are paired by serial. A row of <i>O</i> alone was
 * deleted, one of <i>W</i> alone inserted; one of both with the same birth was only moved, and one
 * with different births was written again. Births are tested for being different, never for their
 * order, since a rewind brings older ones back.
 *
 * <p>Of files that tell no serials nothing is read, unless rows have to be filtered. Rows that do
 * not fit into memory are compared in ranges of serials. For one thread.
 */
public final class ChangeFinder {
  private final Comparison comparison;
  private final ReadContext context;
  private final Schema nothing;
  private final Side earlier;
  private final Side later;
  private final int mostRuns;
  private final long partRows;
  private final RowChanges found = new RowChanges();
  private long inPart;

  private ChangeFinder(Comparison comparison) {
    long memory = comparison.memory();
    this.comparison = comparison;
    this.context = comparison.context();
    this.nothing = Schema.stored(List.of(), List.of(), comparison.to().schema().lastId());
    Side.Both sides = Side.of(comparison);
    this.earlier = sides.earlier();
    this.later = sides.later();
    this.mostRuns = (int) Math.max(2, Math.min(1 << 26, memory / (2 * SerialRuns.BYTES)));
    int columns = Math.max(1, comparison.shown().columns().size());
    this.partRows = Math.max(1, memory / (columns * 64L));
  }

  /** Finds them. */
  public static RowChanges find(Comparison comparison) {
    return new ChangeFinder(comparison).find();
  }

  private RowChanges find() {
    if (comparison.serials().isPresent()) {
      pair(comparison.serials().get().from(), comparison.serials().get().behind());
    } else if (earlier.isEmpty()) {
      takeAll(later, found.inserted());
    } else if (later.isEmpty()) {
      takeAll(earlier, found.deleted());
    } else {
      long end =
          Math.max(comparison.from().record().nextSerial(), comparison.to().record().nextSerial());
      pair(0, Math.max(1, end));
    }
    return found;
  }

  /** All rows of one side are of one kind when the other one has none. */
  private void takeAll(Side side, Map<FileEntry, RoaringBitmap> places) {
    List<FilesScan.Part> undecided = new ArrayList<>();
    for (int i = 0; i < side.files().size(); i++) {
      FileEntry file = side.files().get(i);
      if (side.isDecided(file)) {
        places.put(file, side.live(i));
      } else {
        undecided.add(side.part(i));
      }
    }
    Watch.Step step = context.watch().step("compare files", Progress.Unit.ROWS);
    FilesScan.of(context, undecided, nothing, side.filter())
        .each(
            rows -> {
              RoaringBitmap at = places.computeIfAbsent(rows.file(), file -> new RoaringBitmap());
              for (int i = 0; i < rows.size(); i++) {
                at.add(rows.position(i));
              }
              step.add(rows.size());
            });
  }

  /** Pairs the rows of a range of serials; in two halves when they do not fit into memory. */
  private void pair(long from, long behind) {
    Optional<SerialRuns> old = runs(earlier, from, behind);
    Optional<SerialRuns> now = old.isEmpty() ? old : runs(later, from, behind);
    if (now.isEmpty()) {
      long middle = from + (behind - from) / 2;
      pair(from, middle);
      pair(middle, behind);
      return;
    }
    match(old.get(), now.get());
  }

  /** The rows of a range of serials, in their order; empty when they do not fit into memory. */
  private Optional<SerialRuns> runs(Side side, long from, long behind) {
    SerialRuns runs = new SerialRuns(behind - from > 1 ? mostRuns : Integer.MAX_VALUE - 8);
    List<FilesScan.Part> read = new ArrayList<>();
    Map<Long, Integer> numbers = new LinkedHashMap<>();
    for (int i = 0; i < side.files().size() && !runs.isFull(); i++) {
      FileEntry file = side.files().get(i);
      if (!file.mayHoldSerials(from, behind - 1)) {
        continue;
      }
      if (side.isDecided(file) && !file.tellsSerials() && !file.tellsBirths()) {
        addOwn(side, i, from, behind, runs);
      } else {
        numbers.put(file.numbers().number(), i);
        read.add(side.part(i));
      }
    }
    Watch.Step step = context.watch().step("compare files", Progress.Unit.ROWS);
    try (FilesScan scan = FilesScan.told(context, read, nothing, side.filter())) {
      Optional<FileRows> rows = runs.isFull() ? Optional.empty() : scan.next();
      while (rows.isPresent()) {
        int file = numbers.get(rows.get().file().numbers().number());
        for (int i = 0; i < rows.get().size(); i++) {
          long serial = rows.get().serial(i);
          if (serial >= from && serial < behind) {
            runs.add(serial, rows.get().birth(i), file, rows.get().position(i), 1);
          }
        }
        step.add(rows.get().size());
        rows = runs.isFull() ? Optional.empty() : scan.next();
      }
    }
    if (runs.isFull()) {
      return Optional.empty();
    }
    runs.sort();
    return Optional.of(runs);
  }

  /** Adds rows whose serials follow from where they are. */
  private void addOwn(Side side, int at, long from, long behind, SerialRuns runs) {
    FileEntry.Numbers numbers = side.files().get(at).numbers();
    PeekableIntIterator next = side.live(at).getIntIterator();
    next.advanceIfNeeded((int) Math.max(0, from - numbers.firstSerial()));
    while (next.hasNext() && numbers.firstSerial() + next.peekNext() < behind) {
      int position = next.next();
      runs.add(numbers.firstSerial() + position, numbers.births().own(), at, position, 1);
    }
  }

  private void match(SerialRuns old, SerialRuns now) {
    Cursor a = new Cursor(old);
    Cursor b = new Cursor(now);
    while (a.isThere() || b.isThere()) {
      if (!b.isThere() || (a.isThere() && a.serial() < b.serial())) {
        int count = b.isThere() ? (int) Math.min(a.left(), b.serial() - a.serial()) : a.left();
        a.take(count, earlier, found.deleted());
      } else if (!a.isThere() || b.serial() < a.serial()) {
        int count = a.isThere() ? (int) Math.min(b.left(), a.serial() - b.serial()) : b.left();
        b.take(count, later, found.inserted());
      } else {
        int count = Math.min(a.left(), b.left());
        if (a.birth() == b.birth()) {
          a.skip(count);
          b.skip(count);
        } else {
          count = divided(a.serial(), count);
          a.take(count, earlier, found.before());
          b.take(count, later, found.after());
        }
      }
    }
  }

  /** How many rows written again, from a serial on, still belong to one part. */
  private int divided(long serial, int count) {
    if (inPart == partRows) {
      found.bounds().add(serial);
      inPart = 0;
    }
    int taken = (int) Math.min(count, partRows - inPart);
    inPart += taken;
    return taken;
  }

  /** Where a comparison is in sorted runs. */
  private static final class Cursor {
    private final SerialRuns runs;
    private int run;
    private int done;

    Cursor(SerialRuns runs) {
      this.runs = runs;
    }

    boolean isThere() {
      return run < runs.size();
    }

    long serial() {
      return runs.serial(run) + done;
    }

    long birth() {
      return runs.birth(run);
    }

    int left() {
      return runs.length(run) - done;
    }

    void skip(int count) {
      done += count;
      if (done == runs.length(run)) {
        run++;
        done = 0;
      }
    }

    void take(int count, Side side, Map<FileEntry, RoaringBitmap> places) {
      long position = (long) runs.position(run) + done;
      places
          .computeIfAbsent(side.files().get(runs.file(run)), file -> new RoaringBitmap())
          .add(position, position + count);
      skip(count);
    }
  }
}
