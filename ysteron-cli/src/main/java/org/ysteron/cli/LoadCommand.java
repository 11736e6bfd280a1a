package org.ysteron.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.commit.Committed;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron load}. */
@Command(
    name = "load",
    description = {
      "Append the rows of CSV or JSON-lines files, in one commit.",
      "The files are read strictly: all of them fit, or nothing is appended."
    })
final class LoadCommand extends LakeCommand {
  @Mixin private FilesOptions files;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, "load " + files.table()).table(files.table());
    try (Append append = target.append();
        Progress progress = new Progress(err(), "loading", "MiB", 1 << 20, total())) {
      long before = 0;
      for (Path path : files.paths()) {
        long start = before;
        files
            .file(path)
            .read(target.schema(), append::add, bytes -> progress.reached(start + bytes));
        before += size(path);
      }
      Committed committed = append.commit();
      out()
          .println(
              "Appended %s to %s: version %d, entry %d."
                  .formatted(
                      Listing.count(append.rows(), "row", "rows"),
                      files.table(),
                      committed.versions().get(target.id()),
                      committed.commit().entry()));
    }
  }

  private long total() {
    long total = 0;
    for (Path file : files.paths()) {
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
