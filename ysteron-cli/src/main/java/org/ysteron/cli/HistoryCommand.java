package org.ysteron.cli;

import java.time.temporal.ChronoUnit;
import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.report.TableVersion;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron history}. */
@Command(
    name = "history",
    description = "List the versions of a table, newest first.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron history tide.readings --limit 4")
final class HistoryCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "VERSIONS",
      defaultValue = "50",
      description = "List at most this many versions (default: 50).")
  private int limit;

  @Option(names = "--wide", description = "Also show program, statement, files and totals.")
  private boolean wide;

  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    Listing list = columns();
    List<TableVersion> versions = opened.table(table).history(limit);
    for (TableVersion record : versions) {
      if (isWide()) {
        list.row(
            record.version(),
            record.commit().entry(),
            record.commit().time(),
            record.operation(),
            record.counts().rowsAdded(),
            record.counts().rowsRemoved(),
            record.counts().filesAdded(),
            record.counts().filesRemoved(),
            record.counts().filesMasked(),
            record.totals().rows(),
            record.totals().files(),
            record.totals().bytes(),
            record.schemaVersion(),
            record.isRedacted(),
            record.commit().author(),
            record.commit().program(),
            record.commit().note(),
            record.commit().statement(),
            record.commit().commitId());
      } else {
        list.row(
            record.version(),
            record.commit().time().truncatedTo(ChronoUnit.SECONDS),
            record.operation() + record.rewoundTo().map(v -> " to " + v).orElse(""),
            record.counts().rowsAdded(),
            record.counts().rowsRemoved(),
            record.totals().rows(),
            record.totals().files(),
            record.counts().filesMasked(),
            record.commit().author(),
            record.isRedacted() && record.commit().note().isEmpty()
                ? "(redacted)"
                : record.commit().note());
      }
    }
    list.end();
    if (listing.isText()) {
      Listing.tellMore(out(), limit, opened.table(table).versionCount(), "versions");
      if (versions.stream().anyMatch(TableVersion::isRedacted)) {
        out()
            .println(
                "An erasure has redacted versions: 'rows' counts the rows that are left; 'added' and 'removed' are as committed.");
      }
    }
  }

  private boolean isWide() {
    return wide || !listing.isText();
  }

  private Listing columns() {
    return isWide()
        ? listing.listing(
            out(),
            "version",
            "entry",
            "time",
            "operation",
            "rows added",
            "rows removed",
            "files added",
            "files removed",
            "files masked",
            "rows",
            "files",
            "bytes",
            "schema version",
            "redacted",
            "author",
            "program",
            "note",
            "statement",
            "commit")
        : listing.listing(
            out(),
            "version",
            "time",
            "operation",
            "added",
            "removed",
            "rows",
            "files",
            "files masked",
            "author",
            "note");
  }
}
