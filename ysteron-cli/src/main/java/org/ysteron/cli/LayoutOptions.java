package org.ysteron.cli;

import java.util.List;
import org.ysteron.option.LayoutPlan;
import picocli.CommandLine.Option;

/** How rows are to be laid out over files. */
final class LayoutOptions {
  @Option(
      names = {"-p", "--partition"},
      paramLabel = "RULE",
      description =
          "Partition rule; can be repeated, and the rules are combined. Examples: 'range taken_at every 1 month' (years, months, days, hours, minutes), 'range level_cm every 100', 'range name at ''F'', ''M''', 'list harbour', 'list harbour of (''Orrin'', ''Vell''), (''Sund'')', 'hash gauge_id into 16'.")
  private List<String> rules = List.of();

  @Option(
      names = "--sort",
      paramLabel = "COLUMN",
      split = ",",
      description =
          "Sort the rows of each file by these columns, such as 'gauge_id,taken_at descending'.")
  private List<String> sort = List.of();

  @Option(
      names = "--along",
      paramLabel = "COLUMN",
      split = ",",
      description =
          "Order rows along a space-filling curve over two to four columns, such as 'gauge_id,taken_at': rows that are near each other in all of them are stored in few files.")
  private List<String> along = List.of();

  boolean isGiven() {
    return !rules.isEmpty() || !sort.isEmpty() || !along.isEmpty();
  }

  LayoutPlan plan() {
    LayoutPlan plan = LayoutPlan.none();
    for (String rule : rules) {
      plan = plan.rule(rule);
    }
    return plan.sortedBy(sort.toArray(String[]::new)).along(along.toArray(String[]::new));
  }
}
