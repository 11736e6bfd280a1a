package org.ysteron.cli;

import java.util.Map;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.sql.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron compact}. */
@Command(
    name = "compact",
    description = {
      "Pack small files into few of the size that the setting file.bytes names, and leave masked rows behind.",
      "Nobody who reads or writes has to wait or fails. It may be stopped and run again; earlier versions keep their files. A few small files stay, so that the same rows are not written anew each time."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron compact tide.readings --time PT10M --note \"nightly\"")
final class CompactCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description = "Only files that may hold such rows; they are packed as a whole.")
  private String where;

  @Option(
      names = "--thoroughly",
      description = "All small files, even two; they are written anew next time.")
  private boolean thoroughly;

  @Option(
      names = "--renew",
      description = "Files of earlier layouts and schemas, too: they come to the newest.")
  private boolean renew;

  @Option(names = "--rehearse", description = "List what would be packed, and change nothing.")
  private boolean rehearse;

  @Mixin private BudgetOptions budget;
  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, "compact " + table).table(table);
    Compaction compaction = target.compact().within(budget.budget());
    compaction = thoroughly ? compaction.thoroughly() : compaction;
    compaction = renew ? compaction.renewing() : compaction;
    if (where != null) {
      compaction = compaction.where(SqlCondition.parse(where, target.schema()));
    }
    if (rehearse) {
      list(compaction.rehearse());
    } else {
      tell(compaction.run(), target);
    }
  }

  private void list(CompactionPlan plan) {
    if (plan.groups().isEmpty() && listing.isText()) {
      out().println("Nothing would be packed: no files are worth it.");
      return;
    }
    Listing list = listing.listing(out(), "partition", "files", "bytes", "rows", "masked rows");
    for (CompactionPlan.Group group : plan.groups()) {
      list.row(group.partition(), group.files(), group.bytes(), group.rows(), group.maskedRows());
    }
    list.end();
    if (listing.isText()) {
      out()
          .println(
              "%s (%s) would be packed, in %s; %s would be left behind. Nothing was changed."
                  .formatted(
                      Listing.count(plan.files(), "file", "files"),
                      Listing.bytes(plan.bytes()),
                      Listing.count(plan.groups().size(), "group", "groups"),
                      Listing.count(plan.maskedRows(), "masked row", "masked rows")));
    }
  }

  private void tell(CompactionReport report, Table target) {
    if (!listing.isText()) {
      Listing list =
          listing.listing(
              out(),
              "table",
              "version",
              "commits",
              "files read",
              "bytes read",
              "files written",
              "bytes written",
              "rows",
              "masked rows",
              "is spent",
              "left out");
      list.row(
          table,
          target.now().version(),
          report.commits().size(),
          report.read().files(),
          report.read().bytes(),
          report.written().files(),
          report.written().bytes(),
          report.read().rows(),
          report.maskedRows(),
          report.isSpent(),
          report.leftOut().stream()
              .map(file -> Map.of("name", file.name(), "reason", file.reason()))
              .toList());
      list.end();
      return;
    }
    if (report.commits().isEmpty()) {
      out().println("Nothing was packed: no files are worth it.");
    } else {
      out()
          .println(
              "Packed %s (%s) into %s (%s) by %s: version %d. %s."
                  .formatted(
                      Listing.count(report.read().files(), "file", "files"),
                      Listing.bytes(report.read().bytes()),
                      report.written().files(),
                      Listing.bytes(report.written().bytes()),
                      Listing.count(report.commits().size(), "commit", "commits"),
                      target.now().version(),
                      left(report)));
    }
    for (CompactionReport.LeftOutFile file : report.leftOut()) {
      out().println("Left out file %d: %s".formatted(file.number(), file.reason()));
    }
    if (report.isSpent()) {
      out().println("The budget is spent; run it again for what is left.");
    }
  }

  private static String left(CompactionReport report) {
    return report.maskedRows() == 0
        ? "No row was changed"
        : "No row was changed, and %s left behind"
            .formatted(Listing.count(report.maskedRows(), "masked row was", "masked rows were"));
  }
}
