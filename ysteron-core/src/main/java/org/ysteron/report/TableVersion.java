package org.ysteron.report;

import java.util.Optional;

/**
 * One version of a table.
 *
 * @param version its number
 * @param commit its commit
 * @param operation what was done: {@code create}, {@code append}, …
 * @param counts files and rows added and removed, files masked
 * @param totals the table's totals after it
 * @param schemaVersion the schema's version
 * @param onlyMoved whether rows were only moved between files, as by a compaction
 * @param isRedacted whether an erasure removed rows from it or texts of its commit
 * @param rewoundTo the earlier version that it made current again
 */
public record TableVersion(
    long version,
    CommitStamp commit,
    String operation,
    Counts counts,
    Totals totals,
    long schemaVersion,
    boolean onlyMoved,
    boolean isRedacted,
    Optional<Long> rewoundTo) {

  /** What a commit added to and removed from a table. */
  public record Counts(
      long filesAdded, long rowsAdded, long filesRemoved, long rowsRemoved, long filesMasked) {
    public static final Counts NOTHING = new Counts(0, 0, 0, 0, 0);
  }

  /** Rows, files and bytes of a table. */
  public record Totals(long files, long rows, long bytes) {
    public static final Totals NOTHING = new Totals(0, 0, 0);

    /** These totals plus others, which may be negative. */
    public Totals plus(long moreFiles, long moreRows, long moreBytes) {
      return new Totals(files + moreFiles, rows + moreRows, bytes + moreBytes);
    }
  }
}
