package org.ysteron.history;

/**
 * How many rows differ between two versions.
 *
 * @param inserted rows that are in the later version only
 * @param deleted rows that are in the earlier version only
 * @param updated rows that are in both, with other values; unless {@code isExact}, rows that were
 *     written again are counted, some of which may have the values that they had
 * @param same rows that were written again with the values that they had, in the columns that are
 *     compared; 0 unless values were read
 * @param isExact whether {@code updated} is exact
 */
public record ChangeCounts(long inserted, long deleted, long updated, long same, boolean isExact) {
  public static final ChangeCounts NOTHING = new ChangeCounts(0, 0, 0, 0, true);

  /** How many rows differ in all. */
  public long total() {
    return inserted + deleted + updated;
  }

  /** These and some more rows of a kind. */
  public ChangeCounts plus(ChangeKind kind, long rows) {
    return switch (kind) {
      case INSERTED -> new ChangeCounts(inserted + rows, deleted, updated, same, isExact);
      case DELETED -> new ChangeCounts(inserted, deleted + rows, updated, same, isExact);
      case UPDATED -> new ChangeCounts(inserted, deleted, updated + rows, same, isExact);
      case UNCHANGED -> this;
    };
  }
}
