package org.ysteron.cli;

import java.io.PrintWriter;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.stream.Collectors;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.maintenance.Expiry;
import org.ysteron.maintenance.ExpiryReport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron expire}. */
@Command(
    name = "expire",
    description = {
      "Expire old versions of tables.",
      "Versions that no rule keeps expire. Without --keep options the settings keep.for, keep.newest and keep.thinned of the table apply, or those of the lake. The newest version and bookmarked versions never expire. Run 'sweep' to delete the files that only expired versions used."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron expire tide.readings --keep-for P7D --keep-thinned \"day P1M\" --dry-run")
final class ExpireCommand extends LakeCommand {
  @Parameters(
      index = "0..*",
      arity = "0..*",
      paramLabel = "TABLE",
      description = "Table names (default: all tables, also dropped ones).")
  private List<String> tables = List.of();

  @Mixin private KeepOptions keep;

  @Option(
      names = "--dry-run",
      description = "List the versions that would expire, and change nothing.")
  private boolean dryRun;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    LakeHandle lake = write.applyTo(opened, "expire " + String.join(" ", tables));
    ExpiryReport report = ExpiryReport.NOTHING;
    if (tables.isEmpty()) {
      report = done(lake.expire());
    }
    for (Table table : tables.stream().distinct().map(lake::table).toList()) {
      report = report.and(done(table.expire()));
    }
    tell(report, dryRun, listing, out());
  }

  private ExpiryReport done(Expiry expiry) {
    Expiry ruled = keep.rules().map(expiry::keeping).orElse(expiry);
    return dryRun ? ruled.dryRun() : ruled.run();
  }

  /** Tells what went, or would. */
  static void tell(
      ExpiryReport report, boolean isDryRun, Listing.Options listing, PrintWriter out) {
    if (report.tables().isEmpty() && listing.isText()) {
      out.println("No version %s.".formatted(isDryRun ? "would expire" : "expired"));
      return;
    }
    Listing list =
        listing.listing(out, "table", "first", "last", "from", "to", "kept", "held", "freed");
    for (ExpiryReport.Expired table : report.tables()) {
      boolean isFirst = true;
      for (ExpiryReport.Gap gap : table.gaps()) {
        list.row(
            isFirst || !listing.isText() ? table.table() : "",
            gap.first(),
            gap.last(),
            gap.from().truncatedTo(ChronoUnit.SECONDS),
            gap.to().truncatedTo(ChronoUnit.SECONDS),
            isFirst ? table.kept() : listing.isText() ? "" : null,
            isFirst ? held(table) : listing.isText() ? "" : null,
            isFirst ? freed(table, listing) : listing.isText() ? "" : null);
        isFirst = false;
      }
    }
    list.end();
    if (listing.isText()) {
      out.println(
          "%s%s %s; %s (%s) %s."
              .formatted(
                  isDryRun ? DryRunOption.NOTHING : "",
                  Listing.count(report.versions(), "version", "versions"),
                  isDryRun ? "would expire" : "expired",
                  Listing.count(report.freed(), "file", "files"),
                  Listing.bytes(report.bytes()),
                  isDryRun ? "would become free" : "can be swept"));
    }
  }

  private static Object freed(ExpiryReport.Expired table, Listing.Options listing) {
    return listing.isText()
        ? table.freed() + " (" + Listing.bytes(table.bytes()) + ")"
        : table.bytes();
  }

  private static String held(ExpiryReport.Expired table) {
    if (table.isWhole()) {
      return "dropped table, as a whole";
    }
    return table.held().entrySet().stream()
        .map(held -> held.getKey() + " by " + String.join(", ", held.getValue()))
        .collect(Collectors.joining("; "));
  }
}
