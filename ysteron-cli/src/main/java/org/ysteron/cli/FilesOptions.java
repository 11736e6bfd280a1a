package org.ysteron.cli;

import java.nio.file.Path;
import java.util.List;
import org.ysteron.error.InvalidInputException;
import org.ysteron.intake.OutsideFile;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** A table, and the files whose rows go into it. */
final class FilesOptions {
  private static final String STANDARD_INPUT = "-";

  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Parameters(
      index = "1..*",
      arity = "1..*",
      paramLabel = "FILE",
      description =
          "A .csv file with a header, or a .jsonl file with one JSON object per line; - is standard input.")
  private Path[] files;

  @Option(
      names = "--kind",
      paramLabel = "KIND",
      description =
          "File type, csv or json_lines; needed if the file name does not tell, as for standard input.")
  private OutsideFile.Kind kind;

  String table() {
    return table;
  }

  List<Path> paths() {
    List<Path> paths = List.of(files);
    if (paths.stream().filter(path -> path.toString().equals(STANDARD_INPUT)).count() > 1) {
      throw new InvalidInputException(
          "Standard input is given twice, but can be read only once. Nothing was changed.");
    }
    return paths;
  }

  /** The file of a path, of the kind that was given, else of that which its name tells. */
  OutsideFile file(Path path) {
    if (path.toString().equals(STANDARD_INPUT)) {
      if (kind == null) {
        throw new InvalidInputException(
            "The file type of standard input is unknown. Give --kind csv or --kind json_lines. Nothing was changed.");
      }
      return new OutsideFile("standard input", kind, () -> new StandardInput(System.in));
    }
    return kind == null ? OutsideFile.of(path) : new OutsideFile(path, kind);
  }
}
