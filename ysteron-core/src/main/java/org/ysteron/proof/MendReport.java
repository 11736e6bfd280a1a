package org.ysteron.proof;

import java.util.List;
import org.ysteron.report.Committed;

/**
 * What was mended.
 *
 * @param lost the files that were taken out
 * @param commits the commits that did it, one for each table
 * @param left what else is wrong, which this cannot mend
 */
public record MendReport(List<Lost> lost, List<Committed> commits, List<Finding> left) {
  public MendReport {
    lost = List.copyOf(lost);
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

  /** How many rows are lost. */
  public long rows() {
    return lost.stream().mapToLong(Lost::rows).sum();
  }
}
