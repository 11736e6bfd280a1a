package org.ysteron.cli;

import org.ysteron.option.ChangeStyle;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;
import picocli.CommandLine.Option;

/** How rows are changed, and what is said of it. */
final class ChangeOptions {
  @Option(
      names = "--style",
      paramLabel = "STYLE",
      defaultValue = "BY_SHARE",
      description =
          "How old rows are removed: mask (marked as deleted), rewrite (the file is rewritten without them), or by_share (depends on the share of the file's rows; default).")
  private ChangeStyle style;

  ChangeStyle style() {
    return style;
  }

  /** Says what was done, in a line or two. */
  static String report(WriteResult result, String table, DryRunOption dryRun) {
    ChangeReport report = result.report();
    String counts =
        "%s of %s matched: %s updated, %s deleted, %s inserted"
            .formatted(
                Listing.count(report.rowsMatched(), "row", "rows"),
                table,
                Listing.number(report.rowsUpdated()),
                Listing.number(report.rowsDeleted()),
                Listing.number(report.rowsInserted()));
    if (dryRun.isOn()) {
      return DryRunOption.NOTHING + counts + ".%n".formatted() + files(report);
    }
    if (result.committed().isEmpty()) {
      return counts + ". No row changed, so there is no new version.";
    }
    var committed = result.committed().get();
    long version = committed.versions().values().iterator().next();
    return counts
        + ": version %d, entry %d.%n".formatted(version, committed.commit().entry())
        + files(report);
  }

  private static String files(ChangeReport report) {
    return "Data files: %s masked, %s dropped, %s rewritten, %s written (%s)."
        .formatted(
            Listing.number(report.filesMasked()),
            Listing.number(report.filesDropped()),
            Listing.number(report.filesRewritten()),
            Listing.number(report.filesAdded()),
            Listing.bytes(report.bytesWritten()));
  }
}
