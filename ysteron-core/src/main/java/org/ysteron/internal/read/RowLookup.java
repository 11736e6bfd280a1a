package org.ysteron.internal.read;

import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.internal.rows.RowText;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/** Reads single rows, for messages. */
public final class RowLookup {
  private RowLookup() {}

  /** The key of the row at a position of a file. */
  public static String describe(
      ReadContext context, VersionPage table, FileEntry file, int position) {
    RoaringBitmap one = RoaringBitmap.bitmapOf(position);
    try (FileScan scan = FileScan.at(context, table, file, table.schema(), one)) {
      Optional<Batch> batch = scan.next();
      return batch.isEmpty() ? "" : RowText.of(table.schema(), batch.get().row(0));
    }
  }
}
