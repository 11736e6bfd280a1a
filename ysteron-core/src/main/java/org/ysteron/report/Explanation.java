package org.ysteron.report;

import java.util.List;
import java.util.Map;

/**
 * What a scan would read and skip at each level.
 *
 * @param table the table's name
 * @param version the version
 * @param condition the condition as text
 * @param files data files of the version
 * @param filesInSkippedSubtrees those that a subtree's summary ruled out, unseen
 * @param subtreesSkipped such subtrees
 * @param filesSkipped those that their own ranges ruled out
 * @param reasons for those two kinds, how many each column rules out by itself
 * @param filesWhole files of which every row passes
 * @param filesFiltered files of which each row is tested
 * @param bytes of the files to read
 * @param rows in the files to read
 * @param groups row groups of the filtered files
 * @param groupsSkipped row groups that their statistics rule out
 * @param runs runs of rows between page boundaries in the row groups left
 * @param runsSkipped runs that the page index rules out
 * @param pagesRead metadata pages that were read to plan
 * @param layouts of each layout that has files, when there are partitions or several layouts
 */
public record Explanation(
    String table,
    long version,
    String condition,
    long files,
    long filesInSkippedSubtrees,
    long subtreesSkipped,
    long filesSkipped,
    Map<String, Long> reasons,
    long filesWhole,
    long filesFiltered,
    long bytes,
    long rows,
    long groups,
    long groupsSkipped,
    long runs,
    long runsSkipped,
    long pagesRead,
    List<OfLayout> layouts) {

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
