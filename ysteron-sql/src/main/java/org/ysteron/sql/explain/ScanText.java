package org.ysteron.sql.explain;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.report.Explanation;

/** What a scan reads and skips, at each level, in words. */
final class ScanText {
  private final Explanation plan;

  ScanText(Explanation plan) {
    this.plan = plan;
  }

  String table() {
    return plan.table() + " version " + plan.version();
  }

  String where() {
    boolean filters = plan.opened().filesFiltered() > 0 || skipped() > 0;
    return filters ? " where " + Names.shortened(plan.condition()) : "";
  }

  private long skipped() {
    return plan.skipped().files() + plan.skipped().filesInSubtrees();
  }

  String details() {
    List<String> parts = new ArrayList<>();
    parts.add("reads " + left(plan.files(), skipped(), "file"));
    tested(parts, plan.groups(), "row group");
    tested(parts, plan.runs(), "page run");
    parts.add("%,d rows, %,d bytes".formatted(plan.opened().rows(), plan.opened().bytes()));
    for (Explanation.Reason reason : plan.reasons()) {
      if (reason.files() + reason.subtrees() > 0) {
        parts.add(skips(reason));
      }
    }
    return String.join("; ", parts);
  }

  private static String skips(Explanation.Reason reason) {
    String by = reason.column().map(column -> column + " skips ").orElse("partitions skip ");
    String files = counted(reason.files(), "file");
    return reason.subtrees() == 0
        ? by + files
        : by + counted(reason.subtrees(), "subtree") + " and " + files;
  }

  private static void tested(List<String> parts, Explanation.Tested of, String what) {
    if (of.all() > 0) {
      parts.add(left(of.all(), of.skipped(), what));
    }
  }

  private static String left(long all, long skipped, String what) {
    return "%,d of %s".formatted(all - skipped, counted(all, what));
  }

  private static String counted(long count, String what) {
    return "%,d %s%s".formatted(count, what, count == 1 ? "" : "s");
  }
}
