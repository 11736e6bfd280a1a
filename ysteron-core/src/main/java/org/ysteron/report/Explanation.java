package org.ysteron.report;

import java.util.List;
import java.util.Optional;

/**
 * What a scan would read and skip at each level.
 *
 * @param table the table's name
 * @param version the version
 * @param condition the condition as text
 * @param skipped what is not opened
 * @param opened what is
 * @param groups row groups of the filtered files
 * @param runs runs of rows between page boundaries in the row groups left
 * @param reasons what each column, and the partitions, rule out by themselves
 * @param pagesRead metadata pages that were read to plan
 * @param layouts of each layout that has files, when there are partitions or several layouts
 */
public record Explanation(
    String table,
    long version,
    String condition,
    Skipped skipped,
    Opened opened,
    Tested groups,
    Tested runs,
    List<Reason> reasons,
    long pagesRead,
    List<OfLayout> layouts) {

  /** Data files of the version. */
  public long files() {
    return skipped.filesInSubtrees + skipped.files + opened.filesWhole + opened.filesFiltered;
  }

  /**
   * What is not opened.
   *
   * @param subtrees subtrees that their summary ruled out, unread
   * @param filesInSubtrees data files in those
   * @param files data files that their own ranges ruled out
   */
  public record Skipped(long subtrees, long filesInSubtrees, long files) {}

  /**
   * What is opened.
   *
   * @param filesWhole files of which every row passes
   * @param filesFiltered files of which each row is tested
   * @param bytes of both
   * @param rows in both
   */
  public record Opened(long filesWhole, long filesFiltered, long bytes, long rows) {}

  /**
   * What was tested in the filtered files.
   *
   * @param all how many there are
   * @param skipped how many their statistics rule out
   */
  public record Tested(long all, long skipped) {}

  /**
   * What one thing rules out by itself.
   *
   * @param column the column whose ranges do; empty for the partitions of the files
   * @param subtrees subtrees that are not read for it
   * @param files files of other subtrees
   */
  public record Reason(Optional<String> column, long subtrees, long files) {}

  /**
   * The files of one layout.
   *
   * @param layout its version
   * @param text what it is
   * @param files how many files it has
   * @param filesRead how many of them are to be read
   */
  public record OfLayout(long layout, String text, long files, long filesRead) {}
}
