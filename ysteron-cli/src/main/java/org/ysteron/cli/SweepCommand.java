package org.ysteron.cli;

import java.io.PrintWriter;
import java.util.Locale;
import org.ysteron.LakeHandle;
import org.ysteron.maintenance.Sweep;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.Retention;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron sweep}. */
@Command(
    name = "sweep",
    description = {
      "Delete files that nothing needs any more.",
      "It deletes files of expired versions, files that crashed writers left, and old ledger entries. Work that started longer ago than the lake setting sweep.after (default: 7 days) can no longer be committed. The command can be stopped and run again, on several machines at once."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron sweep --dry-run")
final class SweepCommand extends LakeCommand {
  @ArgGroup private Since since = new Since();

  static final class Since {
    @Option(
        names = "--after",
        paramLabel = "TIME",
        description =
            "Refuse work that started longer ago than this, such as P1D or PT2H (default: the setting sweep.after).")
    private String after;

    @Option(
        names = "--now",
        description =
            "Refuse all work that is not committed yet. Use it only while nobody writes to the lake.")
    private boolean now;
  }

  @Option(
      names = "--entries",
      description = "Delete old ledger entries even if much of their content must be copied first.")
  private boolean entries;

  @Option(
      names = "--full",
      description = "Examine all file names, not only those since the last sweep.")
  private boolean full;

  @Mixin private BudgetOptions budget;

  @Option(names = "--dry-run", description = "Show what would be deleted, and delete nothing.")
  private boolean dryRun;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Sweep sweep = write.applyTo(opened, "sweep").sweep().within(budget.budget());
    sweep = since.after == null ? sweep : sweep.after(Retention.parseSpan(since.after));
    sweep = since.now ? sweep.now() : sweep;
    sweep = entries ? sweep.withEntries() : sweep;
    sweep = full ? sweep.full() : sweep;
    tell(dryRun ? sweep.dryRun() : sweep.run(), dryRun, listing, out());
  }

  /** Tells what was deleted, or would be. */
  static void tell(SweepReport report, boolean isDryRun, Listing.Options listing, PrintWriter out) {
    boolean isText = listing.isText();
    if (!isText || !report.deleted().isEmpty()) {
      Listing list = listing.listing(out, "what", "objects", "bytes");
      report
          .deleted()
          .forEach(
              (kind, amount) ->
                  list.row(
                      isText ? words(kind) : kind.name().toLowerCase(Locale.ROOT),
                      amount.objects(),
                      isText ? Listing.bytes(amount.bytes()) : amount.bytes()));
      list.end();
    }
    if (!isText) {
      return;
    }
    String deleted =
        report.all().objects() == 0
            ? "There is nothing to delete"
            : "%s (%s) %s"
                .formatted(
                    Listing.count(report.all().objects(), "object", "objects"),
                    Listing.bytes(report.all().bytes()),
                    isDryRun ? "would be deleted" : "deleted");
    out.println(
        "%s%s. Work that was started before entry %d %s. The ledger starts at entry %d.%s"
            .formatted(
                isDryRun ? DryRunOption.NOTHING : "",
                deleted,
                report.horizon(),
                isDryRun ? "could no longer be committed" : "can no longer be committed",
                report.floor(),
                report.copied() == 0
                    ? ""
                    : " " + Listing.bytes(report.copied()) + " of pages were copied."));
    if (report.waiting().objects() > 0) {
      out.println(
          "%s (%s) are free, and go once nobody can be at work who started before that."
              .formatted(
                  Listing.count(report.waiting().objects(), "object", "objects"),
                  Listing.bytes(report.waiting().bytes())));
    }
    report.foreign().forEach(name -> out.println("Not of this lake, and left alone: " + name));
    if (report.isSpent()) {
      out.println("The limit was reached. Run the command again to continue.");
    }
  }

  private static String words(SweepReport.Kind kind) {
    return switch (kind) {
      case FREED -> "of expired versions";
      case STRAY -> "left by writers";
      case UNFINISHED -> "unfinished";
      case ENTRY -> "entries of the ledger";
    };
  }
}
