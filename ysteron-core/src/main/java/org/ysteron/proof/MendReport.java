package org.ysteron.proof;

import java.util.List;
import org.ysteron.report.Committed;

/**
 * What was mended.
 *
 * @param lost the files that were taken out
 * @param versions the versions that are lost, since pages of theirs are
 * @param forgotten what else is let go with lost pages, in words: named writers, bookmarks,
 *     statistics
 * @param commits the commits that did it
 * @param left what else is wrong, which this cannot mend
 */
public record MendReport(
    List<Lost> lost,
    List<LostVersions> versions,
    List<String> forgotten,
    List<Committed> commits,
    List<Finding> left) {
  public MendReport {
    lost = List.copyOf(lost);
    versions = List.copyOf(versions);
    forgotten = List.copyOf(forgotten);
    commits = List.copyOf(commits);
    left = List.copyOf(left);
  }

  /**
   * A file that was taken out.
   *
   * @param table the table's name
   * @param object the file's name in the store
   * @param rows how many rows that count it had
   * @param problem what was wrong with it
   */
  public record Lost(String table, String object, long rows, String problem) {}

  /**
   * Versions of a table that cannot be read any more, from one to another.
   *
   * @param rows how many rows fewer than the newest version had what took its place has, when the
   *     newest is among them; else 0
   */
  public record LostVersions(String table, long first, long last, long rows) {}

  /** How many rows are lost. */
  public long rows() {
    return lost.stream().mapToLong(Lost::rows).sum()
        + versions.stream().mapToLong(LostVersions::rows).sum();
  }
}
