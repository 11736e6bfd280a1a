package org.ysteron.cli;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.ysteron.Merge;
import org.ysteron.MergeSource;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.intake.OutsideFile;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** The files that are merged into a table, and how their rows are matched. */
final class SourceOptions {
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

  @Option(
      names = "--on",
      split = ",",
      paramLabel = "COLUMN",
      description = "Match rows on these columns (default: the primary key).")
  private List<String> on = List.of();

  @Option(names = "--last-wins", description = "Of rows with the same key the last one counts.")
  private boolean lastWins;

  @Option(
      names = "--greatest",
      paramLabel = "COLUMN",
      description = "Of rows with the same key the one with the greatest value here counts.")
  private String greatest;

  @Option(
      names = "--only-different",
      description = "Leave rows alone that have their new values already.")
  private boolean onlyDifferent;

  String table() {
    return table;
  }

  /** What the commit gives as its cause. */
  String statement(String command) {
    List<String> names = new ArrayList<>();
    for (Path file : files) {
      names.add(file.getFileName().toString());
    }
    return command + " " + table + " " + String.join(" ", names);
  }

  /** The columns of the files, as the table has them. */
  Schema columns(Schema schema) {
    List<String> names = file(files[0]).columns();
    for (Path path : files) {
      List<String> others = file(path).columns();
      if (!others.equals(names)
          && !List.copyOf(new java.util.TreeSet<>(others))
              .equals(List.copyOf(new java.util.TreeSet<>(names)))) {
        throw new InvalidInputException(
            "%s has the columns %s, but %s has %s. Merge them one by one. Nothing was changed."
                .formatted(files[0], String.join(", ", names), path, String.join(", ", others)));
      }
    }
    List<String> paths = names.stream().map(name -> Schema.path(List.of(name))).toList();
    return names.isEmpty() ? schema : schema.select(paths);
  }

  private OutsideFile file(Path path) {
    return kind == null ? OutsideFile.of(path) : new OutsideFile(path, kind);
  }

  MergeSource source(Schema columns) {
    return MergeSource.values(
        columns.columns().stream().map(column -> column.name()).toList(),
        target -> {
          for (Path path : files) {
            file(path).read(columns, target::add, bytes -> {});
          }
        });
  }

  /** Sets what the options say. */
  void applyTo(Merge merge) {
    if (!on.isEmpty()) {
      merge.on(on.toArray(String[]::new));
    }
    if (lastWins) {
      merge.lastWins();
    }
    if (greatest != null) {
      merge.greatestWins(greatest);
    }
    if (onlyDifferent) {
      merge.onlyDifferent();
    }
  }
}
