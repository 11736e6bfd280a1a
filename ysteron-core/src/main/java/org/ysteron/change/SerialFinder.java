package org.ysteron.change;

import java.util.List;
import java.util.Optional;
import org.roaringbitmap.PeekableIntIterator;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Serials;
import org.ysteron.data.Vector;
import org.ysteron.read.FileScan;
import org.ysteron.read.ReadContext;
import org.ysteron.table.FileEntry;
import org.ysteron.table.TablePage;

/**
 * Finds the serials of rows at some positions of a file, and the positions of rows of some serials;
 * it reads at most the column of serials. For one thread.
 */
final class SerialFinder {
  private final ReadContext context;
  private final TablePage table;
  private final Schema column;

  SerialFinder(ReadContext context, TablePage table) {
    this.context = context;
    this.table = table;
    this.column =
        Schema.stored(List.of(Serials.field(table.schema())), List.of(), table.schema().lastId());
  }

  /** The serial of a row of a batch that was read from a file. */
  static long serial(FileEntry file, Vector column, int row, int position) {
    return column.isNull(row)
        ? file.numbers().firstSerial() + position
        : ((Vector.OfLong) column).values()[row];
  }

  /** The serials of the rows at some positions. */
  Roaring64Bitmap serials(FileEntry file, RoaringBitmap positions) {
    Roaring64Bitmap serials = new Roaring64Bitmap();
    if (!file.tellsSerials()) {
      PeekableIntIterator next = positions.getIntIterator();
      while (next.hasNext()) {
        serials.addLong(file.numbers().firstSerial() + next.next());
      }
      return serials;
    }
    walk(
        FileScan.at(context, table, file, column, positions),
        (vector, row, position) -> serials.addLong(serial(file, vector, row, position)));
    return serials;
  }

  /** The positions of rows that count and have one of some serials. */
  RoaringBitmap positions(FileEntry file, Roaring64Bitmap serials) {
    RoaringBitmap positions = new RoaringBitmap();
    if (serials.isEmpty() || !file.mayHoldSerials(serials.first(), serials.last())) {
      return positions;
    }
    walk(
        FileScan.all(context, table, file, column),
        (vector, row, position) -> {
          if (serials.contains(serial(file, vector, row, position))) {
            positions.add(position);
          }
        });
    return positions;
  }

  private interface Visitor {
    void row(Vector serials, int row, int position);
  }

  private static void walk(FileScan scan, Visitor visitor) {
    try (scan) {
      Optional<Batch> batch = scan.next();
      while (batch.isPresent()) {
        Vector vector = batch.get().vectors().get(0);
        for (int i = 0; i < batch.get().size(); i++) {
          visitor.row(vector, i, scan.position(i));
        }
        batch = scan.next();
      }
    }
  }
}
