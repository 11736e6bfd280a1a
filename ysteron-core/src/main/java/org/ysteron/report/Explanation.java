package org.ysteron.report;

import java.util.List;
import java.util.Optional;

/**
 * What a scan reads and skips at each level.
 *
 * @param table the table's name
 * @param version the version
 * @param condition the condition as text
 * @param skipped the data files to open skipped without opening data files
 * @param opened the data files to open
 * @param groups row groups of the filtered files
 * @param runs runs of rows between page boundaries in the row groups left
 * @param reasons what each column, and the partitions, skip by themselves
 * @param pagesRead metadata pages that were read to plan
 * @param layouts the layouts that have files, if there are partitions or several layouts
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
   * What is skipped without opening data files.
   *
   * @param subtrees subtrees that were skipped by their summary, without reading them
   * @param filesInSubtrees data files in those
   * @param files data files that were skipped by their own ranges
   */
  public record Skipped(long subtrees, long filesInSubtrees, long files) {}

  /**
   * The data files to open.
   *
   * @param filesWhole files in which every row matches
   * @param filesFiltered files in which each row is tested
   * @param bytes of both
   * @param rows in both
   */
  public record Opened(long filesWhole, long filesFiltered, long bytes, long rows) {}

  /**
   * Row groups or runs of rows in the filtered files.
   *
   * @param all how many there are
   * @param skipped how many are skipped by statistics
   */
  public record Tested(long all, long skipped) {}

  /**
   * What one column, or the partitions, skip by themselves.
   *
   * @param column the column; empty for the partitions of the files
   * @param subtrees subtrees that it skips
   * @param files files that it skips in other subtrees
   */
  public record Reason(Optional<String> column, long subtrees, long files) {}

  /**
   * The files of one layout.
   *
   * @param layout its version
   * @param text its description
   * @param files how many files it has
   * @param filesRead how many of them are read
   */
  public record OfLayout(long layout, String text, long files, long filesRead) {}
}
