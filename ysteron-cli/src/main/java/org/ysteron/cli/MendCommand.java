package org.ysteron.cli;

import org.ysteron.Lake;
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
      "Take data files that are lost or damaged out of the newest versions, so that these can be read again, without the rows of those files; and where pages of metadata are lost, build what a table knows of its past anew from what can be read.",
      "The history says what is gone. Earlier versions stay as they are until they expire, or the files are put back from a copy, which is better where there is one."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron mend --rehearse")
final class MendCommand extends LakeCommand {
  @Option(
      names = "--depth",
      paramLabel = "DEPTH",
      defaultValue = "bytes",
      description =
          "How files are looked at: files: sizes, footers, numbers of rows; bytes: every byte (default); rows: also the rows of the newest versions. Give that of the check that found what is wrong.")
  private CheckDepth depth;

  @Option(names = "--rehearse", description = "Say what would be taken out, and change nothing.")
  private boolean rehearse;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    LakeMend mend = write.applyTo(opened, "mend").mend().to(depth);
    MendReport report = rehearse ? mend.rehearse() : mend.run();
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
          list.row(gone.table(), gone.rows(), versions, "Pages of metadata are lost.");
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
                ? "%sWhat needs lost pages %s; the rest can be read."
                    .formatted(
                        rehearse ? RehearseOption.NOTHING : "",
                        rehearse ? "would be let go" : "was let go")
                : report.lost().isEmpty()
                    ? "No newest version has a data file that is lost or damaged; nothing was changed."
                    : "%s%s, with %s, %s out of %s."
                        .formatted(
                            rehearse ? RehearseOption.NOTHING : "",
                            Listing.count(report.lost().size(), "data file", "data files"),
                            Listing.count(report.rows(), "row", "rows"),
                            rehearse
                                ? "would be taken"
                                : report.lost().size() == 1 ? "was taken" : "were taken",
                            Listing.count(
                                report.lost().stream()
                                    .map(MendReport.Lost::table)
                                    .distinct()
                                    .count(),
                                "newest version",
                                "newest versions")));
    if (!report.forgotten().isEmpty()) {
      out().println(rehearse ? "What else would go:" : "What else has gone:");
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
