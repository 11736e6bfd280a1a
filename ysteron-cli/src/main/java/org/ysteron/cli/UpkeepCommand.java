package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.maintenance.Upkeep;
import org.ysteron.maintenance.UpkeepPlan;
import org.ysteron.maintenance.UpkeepReport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron upkeep}. */
@Command(
    name = "upkeep",
    description = {
      "Run the maintenance that is due: expire, sweep, compact.",
      "The settings of the lake and of its tables decide what is due. Run it from cron or another scheduler, on one machine or on several at once."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron upkeep --time PT20M")
final class UpkeepCommand extends LakeCommand {
  @Mixin private BudgetOptions budget;

  @Option(names = "--dry-run", description = "Show what is due, and change nothing.")
  private boolean dryRun;

  @Mixin private WriteOptions write;

  private final Listing.Options text = Listing.Options.ofText();

  @Override
  void run(LakeHandle opened) {
    Upkeep upkeep = write.applyTo(opened, "upkeep").upkeep().within(budget.budget());
    if (dryRun) {
      plan(upkeep.dryRun());
    } else {
      tell(upkeep.run());
    }
  }

  private void plan(UpkeepPlan plan) {
    plan.rules().forEach((table, rules) -> out().println("%s keeps %s.".formatted(table, rules)));
    ExpireCommand.tell(plan.expiry(), true, text, out());
    SweepCommand.tell(plan.sweep(), true, text, out());
    plan.packing()
        .forEach(
            (table, packing) ->
                out()
                    .println(
                        "%s of %s (%s) would be combined."
                            .formatted(
                                Listing.count(packing.files(), "file", "files"),
                                table,
                                Listing.bytes(packing.bytes()))));
  }

  private void tell(UpkeepReport report) {
    ExpireCommand.tell(report.expiry(), false, text, out());
    SweepCommand.tell(report.sweep(), false, text, out());
    report
        .packed()
        .forEach(
            (table, packed) ->
                out()
                    .println(
                        "Combined %s of %s (%s) into %d."
                            .formatted(
                                Listing.count(packed.read().files(), "file", "files"),
                                table,
                                Listing.bytes(packed.read().bytes()),
                                packed.written().files())));
    report.failed().forEach((table, why) -> out().println("Skipped %s: %s".formatted(table, why)));
    if (report.isSpent()) {
      out().println("The limit was reached. Run the command again to continue.");
    }
  }
}
