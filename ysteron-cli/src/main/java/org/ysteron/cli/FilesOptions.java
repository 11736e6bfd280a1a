package org.ysteron.cli;

import java.nio.file.Path;
import java.util.List;
import org.ysteron.intake.OutsideFile;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** A table, and the files whose rows go into it. */
final class FilesOptions {
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

  String table() {
    return table;
  }

  List<Path> paths() {
    return List.of(files);
  }

  /** The file of a path, of the kind that was given, else of that which its name tells. */
  OutsideFile file(Path path) {
    return kind == null ? OutsideFile.of(path) : new OutsideFile(path, kind);
  }
}
