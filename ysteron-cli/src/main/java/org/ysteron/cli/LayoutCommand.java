package org.ysteron.cli;

import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import org.ysteron.option.LayoutPlan;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron layout}. */
@Command(
    name = "layout",
    description = {
      "Show or change how a table stores rows in files.",
      "A new layout applies to new files. Existing files keep their layout until you run 'rewrite'."
    },
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron layout tide.readings --partition \"range taken_at every 1 day\" --sort gauge_id")
final class LayoutCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Mixin private LayoutOptions layout;

  @Option(names = "--none", description = "Remove the partition rules and the sort order.")
  private boolean none;

  @Spec private CommandSpec spec;
  @Mixin private WriteOptions write;
  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    if (layout.isGiven() && none) {
      throw new CommandLine.ParameterException(
          spec.commandLine(), "Give --none, or rules, an order or a curve, not both.");
    }
    if (layout.isGiven() || none) {
      LayoutPlan plan = none ? LayoutPlan.none() : layout.plan();
      write.applyTo(opened, "layout " + table).table(table).alter().layout(plan).run();
    }
    TableView view = opened.table(table).now();
    Listing list =
        listing.isText()
            ? listing.listing(out(), "layout", "files", "", "rules")
            : listing.listing(out(), "layout", "files", "is current", "rules");
    for (Map.Entry<Long, LayoutPlan> each : view.layouts().entrySet()) {
      list.row(
          each.getKey(),
          view.filesOfLayout(each.getKey()),
          now(each.getKey() == view.layoutVersion()),
          each.getValue());
    }
    list.end();
  }

  private Object now(boolean isNewest) {
    String shown = isNewest ? "current" : "";
    return listing.isText() ? shown : isNewest;
  }
}
