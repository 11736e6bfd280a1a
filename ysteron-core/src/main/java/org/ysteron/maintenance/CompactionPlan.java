package org.ysteron.maintenance;

import java.util.List;

/**
 * What a compaction would do.
 *
 * @param groups files that would be combined, group by group, in order
 */
public record CompactionPlan(List<Group> groups) {
  public CompactionPlan {
    groups = List.copyOf(groups);
  }

  /**
   * Files that would be packed together.
   *
   * @param partition where they lie, for people; empty for none
   * @param files how many
   * @param bytes their sizes together
   * @param rows rows that count
   * @param maskedRows rows that no longer count, and would be left behind
   */
  public record Group(String partition, long files, long bytes, long rows, long maskedRows) {}

  /** Files that would be read; each group of one layout becomes one file. */
  public long files() {
    return groups.stream().mapToLong(Group::files).sum();
  }

  /** Their sizes together. */
  public long bytes() {
    return groups.stream().mapToLong(Group::bytes).sum();
  }

  /** Rows that would be moved. */
  public long rows() {
    return groups.stream().mapToLong(Group::rows).sum();
  }

  /** Rows that no longer count, and would be left behind. */
  public long maskedRows() {
    return groups.stream().mapToLong(Group::maskedRows).sum();
  }
}
