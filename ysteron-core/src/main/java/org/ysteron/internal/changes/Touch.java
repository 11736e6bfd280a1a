package org.ysteron.internal.changes;

import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.table.FileEntry;

/**
 * Rows of a data file that a statement removed, or replaced by rows in another file.
 *
 * @param entry the file as the statement found it
 * @param rows their positions
 * @param gone whether the file goes: no row is left, or its other rows were moved to a new file
 */
public record Touch(FileEntry entry, RoaringBitmap rows, boolean gone) {

  /** What two statements did to one file. */
  Touch and(Touch later) {
    return new Touch(entry, RoaringBitmap.or(rows, later.rows), gone || later.gone);
  }
}
