package org.ysteron.change;

import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.read.FileScan;
import org.ysteron.read.ReadContext;
import org.ysteron.table.FileEntry;
import org.ysteron.table.VersionPage;

/** Reads single rows, for messages. */
final class RowLookup {
  private RowLookup() {}

  /** The key of the row at a position of a file. */
  static String describe(ReadContext context, VersionPage table, FileEntry file, int position) {
    RoaringBitmap one = RoaringBitmap.bitmapOf(position);
    try (FileScan scan = FileScan.at(context, table, file, table.schema(), one)) {
      Optional<Batch> batch = scan.next();
      return batch.isEmpty() ? "" : Assignment.describe(table.schema(), batch.get().row(0));
    }
  }
}
