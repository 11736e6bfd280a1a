package org.ysteron.cli;

import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron compact}. */
@Command(
    name = "compact",
    description = {
      "Combine small data files into larger ones.",
      "The target size is the table setting file.bytes. Deleted rows are removed from the files. Readers and writers do not wait and do not fail. The command can be stopped and run again. Earlier versions keep their files. A few small files remain, so that the same rows are not rewritten each time."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron compact tide.readings --time PT10M --note \"nightly\"")
final class CompactCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description =
          "Only files that may hold rows with this condition; a file is combined as a whole.")
  private String where;

  @Option(
      names = "--full",
      description = "Combine all small files, even two. The result is rewritten next time.")
  private boolean full;

  @Option(names = "--renew", description = "Also rewrite files with an older layout or schema.")
  private boolean renew;

  @Option(
      names = "--dry-run",
      description = "List the files that would be combined, and change nothing.")
  private boolean dryRun;

  @Mixin private BudgetOptions budget;
  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, "compact " + table).table(table);
    Compaction compaction = target.compact().within(budget.budget());
    compaction = full ? compaction.full() : compaction;
    compaction = renew ? compaction.renewing() : compaction;
    if (where != null) {
      compaction = compaction.where(SqlCondition.parse(where, target.schema()));
    }
    if (dryRun) {
      list(compaction.dryRun());
    } else {
      tell(compaction.run(), target);
    }
  }

  private void list(CompactionPlan plan) {
    if (plan.groups().isEmpty() && listing.isText()) {
      out().println("Nothing would be combined: there are too few small files.");
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
              DryRunOption.NOTHING
                  + "%s (%s) would be combined, in %s; %s would be removed."
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
              "skipped");
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
          report.skipped().stream()
              .map(file -> Map.of("name", file.name(), "reason", file.reason()))
              .toList());
      list.end();
      return;
    }
    if (report.commits().isEmpty()) {
      out().println("Nothing was combined: there are too few small files.");
    } else {
      out()
          .println(
              "Combined %s (%s) into %s (%s) by %s: version %d. %s."
                  .formatted(
                      Listing.count(report.read().files(), "file", "files"),
                      Listing.bytes(report.read().bytes()),
                      report.written().files(),
                      Listing.bytes(report.written().bytes()),
                      Listing.count(report.commits().size(), "commit", "commits"),
                      target.now().version(),
                      left(report)));
    }
    for (CompactionReport.SkippedFile file : report.skipped()) {
      out().println("Skipped file %d: %s".formatted(file.number(), file.reason()));
    }
    if (report.isSpent()) {
      out().println("The limit was reached. Run the command again to continue.");
    }
  }

  private static String left(CompactionReport report) {
    return report.maskedRows() == 0
        ? "No row changed"
        : "No row changed, and %s removed"
            .formatted(Listing.count(report.maskedRows(), "masked row was", "masked rows were"));
  }
}
