package org.ysteron.internal.changes;

import java.util.Optional;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.FileTask;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/**
 * Finds rows by their serials and births, and the serials of rows. Of a file it reads at most the
 * hidden columns and those that a filter tests; a file that has none is not opened. For one thread.
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

  /** Takes rows, in the order of their positions. */
  interface Visitor {
    void row(long serial, long birth, int position);
  }

  /** Visits the rows of a file that count; those at some positions, or all for null. */
  void visit(FileEntry file, RoaringBitmap among, Visitor visitor) {
    if (file.tellsSerials() || file.tellsBirths()) {
      FileScan scan =
          among == null
              ? FileScan.all(context, table, file, columns)
              : FileScan.at(context, table, file, columns, among);
      visit(scan, file, visitor);
      return;
    }
    PeekableIntIterator next = live(file, among).getIntIterator();
    while (next.hasNext()) {
      int position = next.next();
      visitor.row(file.numbers().firstSerial() + position, file.numbers().births().own(), position);
    }
  }

  /** Visits the rows of a file that count and pass a filter; those at some positions, or all. */
  void visit(FileEntry file, RoaringBitmap among, Filter filter, Visitor visitor) {
    ScanPlan.Task task = new ScanPlan.Task(table, file, true);
    visit(new FileScan(context, task, columns, filter, among), file, visitor);
  }

  private static void visit(FileScan scan, FileEntry file, Visitor visitor) {
    scan.located(file)
        .each(
            rows -> {
              for (int i = 0; i < rows.size(); i++) {
                visitor.row(rows.serial(i), rows.birth(i), rows.position(i));
              }
            });
  }

  /** The rows of a file that count; those at some positions, or all for null. */
  RoaringBitmap live(FileEntry file, RoaringBitmap among) {
    RoaringBitmap live =
        among == null ? RoaringBitmap.bitmapOfRange(0, file.rows()) : among.clone();
    live.andNot(FileTask.of(new ScanPlan.Task(table, file, false), context.pages()).masked());
    return live;
  }

  /** The serials of the rows at some positions. */
  public Roaring64Bitmap serials(FileEntry file, RoaringBitmap positions) {
    Roaring64Bitmap serials = new Roaring64Bitmap();
    visit(file, positions, (serial, birth, position) -> serials.addLong(serial));
    return serials;
  }

  /** The serials of rows that count and pass a filter; of those at some positions, or all. */
  public Roaring64Bitmap serials(FileEntry file, Filter filter, Optional<RoaringBitmap> among) {
    Roaring64Bitmap serials = new Roaring64Bitmap();
    visit(file, among.orElse(null), filter, (serial, birth, position) -> serials.addLong(serial));
    return serials;
  }

  /** The positions of rows that count and have one of some serials. */
  public RoaringBitmap positions(FileEntry file, Roaring64Bitmap serials) {
    return positions(file, serials, Long.MAX_VALUE);
  }

  /** The positions of rows that count, have one of some serials and were born up to a commit. */
  public RoaringBitmap positions(FileEntry file, Roaring64Bitmap serials, long ordinal) {
    RoaringBitmap positions = new RoaringBitmap();
    if (serials.isEmpty()
        || file.isBornSince(ordinal)
        || !file.mayHoldSerials(serials.first(), serials.last())) {
      return positions;
    }
    visit(
        file,
        null,
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
    visit(
        file,
        null,
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
      visit(
          file,
          null,
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
    visit(file, null, filter, (serial, birth, position) -> found[0] |= birth > ordinal);
    return found[0];
  }

  /** How many of the rows at some positions tell no birth of their own. */
  public long untold(FileEntry file, RoaringBitmap positions) {
    if (!file.tellsBirths()) {
      return live(file, positions).getLongCardinality();
    }
    long[] count = {0};
    FileScan.at(context, table, file, columns, positions)
        .each(batch -> count[0] += batch.vectors().get(1).nullCount());
    return count[0];
  }
}
