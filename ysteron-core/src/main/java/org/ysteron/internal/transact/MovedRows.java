package org.ysteron.internal.transact;

import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.internal.read.SerialFinder;
import org.ysteron.internal.read.SerialIndex;
import org.ysteron.internal.table.FileEntry;

/**
 * Where a transaction moved rows to, by serial: others' changes of them follow. What was read once
 * is kept, so that a commit that holds its turn reads little. For one thread.
 */
final class MovedRows {
  private final TableChange change;
  private final Map<FileEntry, Optional<SerialIndex>> indexes = new HashMap<>();

  MovedRows(TableChange change) {
    this.change = change;
  }

  /** Whether rows were moved from files that others may know. */
  boolean areAny() {
    return change.files().stream().anyMatch(file -> file.origin().isPresent());
  }

  /** Where in a file of the transaction's own, as its draft has it, the rows of serials are. */
  RoaringBitmap positions(FileEntry own, Roaring64Bitmap serials) {
    SerialFinder finder = new SerialFinder(change.context(), change.draft());
    return indexes
        .computeIfAbsent(own, file -> finder.index(file, change.seen()))
        .map(index -> index.positions(serials))
        .orElseGet(() -> finder.positions(own, serials, change.seen()));
  }
}
