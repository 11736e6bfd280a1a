package org.ysteron.cli;

import java.io.PrintWriter;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.stream.Collectors;
import org.ysteron.Lake;
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
      "Let old versions of tables go: those that no rule keeps, but for the newest and what a bookmark names.",
      "Without rules here the settings keep.for, keep.newest and keep.thinned of the table count, else those of the lake. What only such versions needed is deleted by sweep."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron expire tide.readings --keep-for P7D --keep-thinned \"day P1M\" --rehearse")
final class ExpireCommand extends LakeCommand {
  @Parameters(
      index = "0..*",
      arity = "0..*",
      paramLabel = "TABLE",
      description = "The tables (default: all, dropped ones too).")
  private List<String> tables = List.of();

  @Mixin private KeepOptions keep;

  @Option(
      names = "--rehearse",
      description = "Say exactly which versions and times would go, and change nothing.")
  private boolean rehearse;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Lake lake = write.applyTo(opened, "expire " + String.join(" ", tables));
    ExpiryReport report = ExpiryReport.NOTHING;
    if (tables.isEmpty()) {
      report = done(lake.expire());
    }
    for (Table table : tables.stream().distinct().map(lake::table).toList()) {
      report = report.and(done(table.expire()));
    }
    tell(report, rehearse, listing, out());
  }

  private ExpiryReport done(Expiry expiry) {
    Expiry ruled = keep.rules().map(expiry::keeping).orElse(expiry);
    return rehearse ? ruled.rehearse() : ruled.run();
  }

  /** Tells what went, or would. */
  static void tell(
      ExpiryReport report, boolean isRehearsal, Listing.Options listing, PrintWriter out) {
    if (report.tables().isEmpty() && listing.isText()) {
      out.println("No version %s.".formatted(isRehearsal ? "would go" : "has gone"));
      return;
    }
    Listing list =
        listing.listing(out, "table", "first", "last", "gone from", "to", "kept", "held", "freed");
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
                  isRehearsal ? RehearseOption.NOTHING : "",
                  Listing.count(report.versions(), "version", "versions"),
                  isRehearsal ? "would go" : "can be read no more",
                  Listing.count(report.freed(), "file", "files"),
                  Listing.bytes(report.bytes()),
                  isRehearsal ? "would be free" : "are free for a sweep"));
    }
  }

  private static Object freed(ExpiryReport.Expired table, Listing.Options listing) {
    return listing.isText()
        ? table.freed() + " (" + Listing.bytes(table.bytes()) + ")"
        : table.bytes();
  }

  private static String held(ExpiryReport.Expired table) {
    if (table.isWhole()) {
      return "dropped: all of it";
    }
    return table.held().entrySet().stream()
        .map(held -> held.getKey() + " by " + String.join(", ", held.getValue()))
        .collect(Collectors.joining("; "));
  }
}
