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

  private long skipped() {
    return plan.skipped().files() + plan.skipped().filesInSubtrees();
  }

  List<String> details() {
    List<String> details = new ArrayList<>();
    if (plan.opened().filesFiltered() > 0 || skipped() > 0) {
      details.add("where " + Names.shortened(plan.condition()));
    }
    List<String> parts = new ArrayList<>();
    parts.add(left(plan.files(), skipped(), "file"));
    tested(parts, plan.groups(), "row group");
    tested(parts, plan.runs(), "page run");
    details.add("reads " + String.join(", ", parts));
    details.add(
        "in them %,d rows, %,d bytes".formatted(plan.opened().rows(), plan.opened().bytes()));
    for (Explanation.Reason reason : plan.reasons()) {
      if (reason.files() + reason.subtrees() > 0) {
        details.add(skips(reason));
      }
    }
    return details;
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
