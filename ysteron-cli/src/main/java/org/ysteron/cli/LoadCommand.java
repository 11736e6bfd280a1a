package org.ysteron.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.commit.Committed;
import org.ysteron.intake.OutsideFile;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron load}. */
@Command(
    name = "load",
    description = {
      "Append the rows of CSV or JSON-lines files, in one commit.",
      "The files are read strictly: all of them fit, or nothing is appended."
    })
final class LoadCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Parameters(
      index = "1..*",
      arity = "1..*",
      paramLabel = "FILE",
      description = "CSV with a header (.csv), or one JSON object a line (.jsonl).")
  private Path[] files;

  @Option(
      names = "--kind",
      paramLabel = "KIND",
      description = "csv or json_lines, when the names do not tell.")
  private OutsideFile.Kind kind;

  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, "load " + table).table(table);
    try (Append append = target.append();
        Progress progress = new Progress(err(), "loading", "MiB", 1 << 20, total())) {
      long before = 0;
      for (Path path : files) {
        OutsideFile file = kind == null ? OutsideFile.of(path) : new OutsideFile(path, kind);
        long start = before;
        file.read(target.schema(), append::add, bytes -> progress.reached(start + bytes));
        before += size(path);
      }
      Committed committed = append.commit();
      out()
          .println(
              "Appended %s to %s: version %d, entry %d."
                  .formatted(
                      Listing.count(append.rows(), "row", "rows"),
                      table,
                      committed.versions().get(target.id()),
                      committed.commit().entry()));
    }
  }

  private long total() {
    long total = 0;
    for (Path file : files) {
      total += size(file);
    }
    return total;
  }

  /** 0 for a file that cannot be read; reading it says why. */
  private static long size(Path file) {
    try {
      return Files.size(file);
    } catch (IOException e) {
      return 0;
    }
  }
}
