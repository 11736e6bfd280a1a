package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.internal.text.Visible;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.LakeMend;
import org.ysteron.proof.MendReport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron mend}. */
@Command(
    name = "mend",
    description = {
      "Remove lost or damaged data files from the newest versions.",
      "The tables can be read again afterwards, without the rows of these files. If metadata pages are lost, the history of the table is rebuilt from what can be read. The history records what was removed. Earlier versions stay as they are until they expire. If you have a copy of the lost files, restore them instead."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron mend --dry-run")
final class MendCommand extends LakeCommand {
  @Option(
      names = "--depth",
      paramLabel = "DEPTH",
      defaultValue = "bytes",
      description =
          "Use the depth of the check that found the damage. files: size, footer and row count of each data file. bytes (default): every byte. rows: also the rows of the newest versions.")
  private CheckDepth depth;

  @Option(names = "--dry-run", description = "Show what would be removed, and change nothing.")
  private boolean dryRun;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    LakeMend mend = write.applyTo(opened, "mend").mend().to(depth);
    MendReport report = dryRun ? mend.dryRun() : mend.run();
    if (!listing.isText() || !report.lost().isEmpty() || !report.versions().isEmpty()) {
      Listing list =
          listing.isText()
              ? listing.listing(out(), "table", "rows", "object")
              : listing.listing(out(), "table", "rows", "object", "problem");
      for (MendReport.Lost lost : report.lost()) {
        if (listing.isText()) {
          list.row(lost.table(), lost.rows(), lost.object());
        } else {
          list.row(lost.table(), lost.rows(), lost.object(), lost.problem());
        }
      }
      for (MendReport.LostVersions gone : report.versions()) {
        String versions =
            gone.first() == gone.last()
                ? "version " + gone.first()
                : "versions %d to %d".formatted(gone.first(), gone.last());
        if (listing.isText()) {
          list.row(gone.table(), gone.rows(), versions);
        } else {
          list.row(gone.table(), gone.rows(), versions, "Metadata pages are lost.");
        }
      }
      list.end();
    }
    if (!listing.isText()) {
      return;
    }
    out()
        .println(
            report.lost().isEmpty() && !report.versions().isEmpty()
                ? "%sVersions that need lost pages %s; the others can be read."
                    .formatted(
                        dryRun ? DryRunOption.NOTHING : "", dryRun ? "would expire" : "expired")
                : report.lost().isEmpty()
                    ? "No newest version has a lost or damaged data file. Nothing was changed."
                    : "%s%s, with %s, %s from %s."
                        .formatted(
                            dryRun ? DryRunOption.NOTHING : "",
                            Listing.count(report.lost().size(), "data file", "data files"),
                            Listing.count(report.rows(), "row", "rows"),
                            dryRun
                                ? "would be removed"
                                : report.lost().size() == 1 ? "was removed" : "were removed",
                            Listing.count(
                                report.lost().stream()
                                    .map(MendReport.Lost::table)
                                    .distinct()
                                    .count(),
                                "newest version",
                                "newest versions")));
    if (!report.forgotten().isEmpty()) {
      out().println(dryRun ? "Would also be lost:" : "Also lost:");
      report.forgotten().forEach(what -> out().println("- " + Visible.of(what)));
    }
    report
        .left()
        .forEach(
            finding ->
                out()
                    .println(
                        "Not mended: %s. %s"
                            .formatted(
                                Visible.of(finding.object()), Visible.lines(finding.problem()))));
  }
}
