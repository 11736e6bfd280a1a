package org.ysteron.cli;

import org.ysteron.Lake;
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
      "Do what is due by the settings of the lake and of its tables: let versions expire, sweep, pack small files.",
      "To be run by a clock, such as cron, on one machine or on several at once: they do not get in each other's way."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron upkeep --time PT20M")
final class UpkeepCommand extends LakeCommand {
  @Mixin private BudgetOptions budget;

  @Option(names = "--rehearse", description = "Say what is due, and do nothing.")
  private boolean rehearse;

  @Mixin private WriteOptions write;

  private final Listing.Options text = Listing.Options.ofText();

  @Override
  void run(Lake opened) {
    Upkeep upkeep = write.applyTo(opened, "upkeep").upkeep().within(budget.budget());
    if (rehearse) {
      plan(upkeep.rehearse());
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
                        "%s of %s (%s) would be packed."
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
                        "Packed %s of %s (%s) into %d."
                            .formatted(
                                Listing.count(packed.read().files(), "file", "files"),
                                table,
                                Listing.bytes(packed.read().bytes()),
                                packed.written().files())));
    report.failed().forEach((table, why) -> out().println("Left out %s: %s".formatted(table, why)));
    if (report.isSpent()) {
      out().println("The budget is spent; run it again for what is left.");
    }
  }
}
