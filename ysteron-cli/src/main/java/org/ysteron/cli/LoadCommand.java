package org.ysteron.cli;

import java.nio.file.Files;
import java.nio.file.Path;
import org.ysteron.Append;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.error.ConflictException;
import org.ysteron.option.WriteRules;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.WriteResult;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron load}. */
@Command(
    name = "load",
    description = {
      "Load CSV or JSON Lines files in one commit.",
      "If one row does not fit the table, nothing is loaded, unless --drift or --skip-rejected allow it."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron load tide.readings day-1.csv day-2.csv --note \"first drops\"")
final class LoadCommand extends LakeCommand {
  private static final int MOST_TRIES = 5;

  @Mixin private FilesOptions files;
  @Mixin private DriftOptions drift;

  @Option(
      names = "--skip-rejected",
      description =
          "Skip rows that the table rejects, and list them: rows whose primary key exists already, and rows that break a constraint that was added meanwhile. By default one such row rejects the whole load.")
  private boolean skip;

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, "load " + files.table()).table(files.table());
    WriteRules ruled = drift.applyTo(WriteRules.of(target.now().settings()));
    WriteRules rules = skip ? ruled.skippingRejected() : ruled;
    boolean canReadAgain = files.paths().stream().allMatch(Files::isRegularFile);
    for (int tries = 1; ; tries++) {
      try {
        tell(load(target, rules), target);
        return;
      } catch (ConflictException e) {
        if (!canReadAgain || !e.isWorthAnotherTry() || tries == MOST_TRIES) {
          throw e;
        }
      }
    }
  }

  private WriteResult load(Table target, WriteRules rules) {
    try (Append append = target.append(own -> rules)) {
      for (Path path : files.paths()) {
        if (rules.isPlain()) {
          files.file(path).read(target.schema(), append, progress());
        } else {
          files.file(path).readNamed(append, progress());
        }
      }
      return append.commit();
    }
  }

  private void tell(WriteResult result, Table target) {
    DriftOptions.tell(result.grown(), out());
    SkippedRows left = result.skipped();
    if (left.rows() > 0) {
      out().println("Skipped %s:".formatted(Listing.count(left.rows(), "row", "rows")));
      left.reasons().forEach(reason -> out().println("  " + reason));
    }
    out()
        .println(
            "Appended %s to %s: version %d, entry %d."
                .formatted(
                    Listing.count(result.report().rowsInserted(), "row", "rows"),
                    files.table(),
                    result.versions().get(target.id()),
                    result.entry().orElseThrow()));
  }
}
