package org.ysteron.internal.read;

import java.util.Optional;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/**
 * Finds rows by their serials and births, and the serials of rows; of a file it reads at most the
 * hidden columns and those that a filter tests. For one thread.
 */
public final class SerialFinder {
  private final ReadContext context;
  private final VersionPage table;
  private final Schema columns;

  public SerialFinder(ReadContext context, VersionPage table) {
    this.context = context;
    this.table = table;
    this.columns = HiddenColumns.only(table.schema());
  }

  /** The serials of the rows at some positions. */
  public Roaring64Bitmap serials(FileEntry file, RoaringBitmap positions) {
    Roaring64Bitmap serials = new Roaring64Bitmap();
    if (!file.tellsSerials()) {
      PeekableIntIterator next = positions.getIntIterator();
      while (next.hasNext()) {
        serials.addLong(file.numbers().firstSerial() + next.next());
      }
      return serials;
    }
    walk(
        file,
        FileScan.at(context, table, file, columns, positions),
        (serial, birth, position) -> serials.addLong(serial));
    return serials;
  }

  /** The serials of rows that count and pass a filter; of those at some positions, or all. */
  public Roaring64Bitmap serials(FileEntry file, Filter filter, Optional<RoaringBitmap> among) {
    Roaring64Bitmap serials = new Roaring64Bitmap();
    walk(
        file,
        passing(file, filter),
        (serial, birth, position) -> {
          if (among.isEmpty() || among.get().contains(position)) {
            serials.addLong(serial);
          }
        });
    return serials;
  }

  private FileScan passing(FileEntry file, Filter filter) {
    ScanPlan.Task task = new ScanPlan.Task(table, file, true);
    return new FileScan(context, task, columns, filter);
  }

  /** The positions of rows that count and have one of some serials. */
  public RoaringBitmap positions(FileEntry file, Roaring64Bitmap serials) {
    RoaringBitmap positions = new RoaringBitmap();
    if (!serials.isEmpty() && file.mayHoldSerials(serials.first(), serials.last())) {
      walk(
          file,
          FileScan.all(context, table, file, columns),
          (serial, birth, position) -> {
            if (serials.contains(serial)) {
              positions.add(position);
            }
          });
    }
    return positions;
  }

  /** The positions of rows that count, have one of some serials and were born up to a commit. */
  public RoaringBitmap positions(FileEntry file, Roaring64Bitmap serials, long ordinal) {
    RoaringBitmap positions = new RoaringBitmap();
    if (serials.isEmpty()
        || file.isBornSince(ordinal)
        || !file.mayHoldSerials(serials.first(), serials.last())) {
      return positions;
    }
    walk(
        file,
        FileScan.all(context, table, file, columns),
        (serial, birth, position) -> {
          if (birth <= ordinal && serials.contains(serial)) {
            positions.add(position);
          }
        });
    return positions;
  }

  /**
   * Where the rows that count and were born up to a commit are; empty when that is too much to keep
   * in memory.
   */
  public Optional<SerialIndex> index(FileEntry file, long ordinal) {
    SerialIndex.Builder builder = new SerialIndex.Builder();
    walk(
        file,
        FileScan.all(context, table, file, columns),
        (serial, birth, position) -> {
          if (birth <= ordinal) {
            builder.add(serial, position);
          }
        });
    return builder.build();
  }

  /** The positions of rows that count and were born later than a commit. */
  public RoaringBitmap bornSince(FileEntry file, long ordinal) {
    RoaringBitmap positions = new RoaringBitmap();
    if (file.hasBornSince(ordinal)) {
      walk(
          file,
          FileScan.all(context, table, file, columns),
          (serial, birth, position) -> {
            if (birth > ordinal) {
              positions.add(position);
            }
          });
    }
    return positions;
  }

  /** Whether a row that counts and passes a filter was born later than a commit. */
  public boolean hasBornSince(FileEntry file, Filter filter, long ordinal) {
    boolean[] found = {false};
    walk(file, passing(file, filter), (serial, birth, position) -> found[0] |= birth > ordinal);
    return found[0];
  }

  /** How many of the rows at some positions tell no birth of their own. */
  public long untold(FileEntry file, RoaringBitmap positions) {
    long[] count = {0};
    try (FileScan scan = FileScan.at(context, table, file, columns, positions)) {
      Optional<Batch> batch = scan.next();
      while (batch.isPresent()) {
        count[0] += batch.get().vectors().get(1).nullCount();
        batch = scan.next();
      }
    }
    return count[0];
  }

  private interface Visitor {
    void row(long serial, long birth, int position);
  }

  private static void walk(FileEntry file, FileScan scan, Visitor visitor) {
    try (scan) {
      Optional<Batch> batch = scan.next();
      while (batch.isPresent()) {
        Vector serials = batch.get().vectors().get(0);
        Vector births = batch.get().vectors().get(1);
        for (int i = 0; i < batch.get().size(); i++) {
          int position = scan.position(i);
          visitor.row(file.serial(serials, i, position), file.birth(births, i), position);
        }
        batch = scan.next();
      }
    }
  }
}
