package org.ysteron.internal.seen;

import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.changes.SerialIndex;
import org.ysteron.internal.table.FileEntry;

/**
 * Where a transaction moved rows to, by serial: others' changes of them follow. What was read once
 * is kept, so that a commit that holds its turn reads little. For one thread.
 */
public final class MovedRows {
  private final SeenTable table;
  private final Map<FileEntry, Optional<SerialIndex>> indexes = new HashMap<>();

  public MovedRows(SeenTable table) {
    this.table = table;
  }

  /** Whether rows were moved from files that others may know. */
  public boolean areAny() {
    return table.files().stream().anyMatch(file -> file.origin().isPresent());
  }

  /** Where in a file of the transaction's own, as its draft has it, the rows of serials are. */
  public RoaringBitmap positions(FileEntry own, Roaring64Bitmap serials) {
    SerialFinder finder = new SerialFinder(table.context(), table.draft());
    return indexes
        .computeIfAbsent(own, file -> finder.index(file, table.seen()))
        .map(index -> index.positions(serials))
        .orElseGet(() -> finder.positions(own, serials, table.seen()));
  }
}
