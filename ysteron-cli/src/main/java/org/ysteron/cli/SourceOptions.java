package org.ysteron.cli;

import java.nio.file.Path;
import java.util.List;
import java.util.Set;
import org.ysteron.Merge;
import org.ysteron.MergeSource;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** The files that are merged into a table, and how their rows are matched. */
final class SourceOptions {
  @Mixin private FilesOptions files;

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
    return files.table();
  }

  /** What the commit gives as its cause. */
  String statement(String command) {
    List<String> names = files.paths().stream().map(p -> p.getFileName().toString()).toList();
    return command + " " + table() + " " + String.join(" ", names);
  }

  /** The columns of the files, as the table has them. */
  Schema columns(Schema schema) {
    Path first = files.paths().get(0);
    List<String> names = files.file(first).columns();
    for (Path path : files.paths().subList(1, files.paths().size())) {
      List<String> others = files.file(path).columns();
      if (!Set.copyOf(others).equals(Set.copyOf(names))) {
        throw new InvalidInputException(
            "%s has the columns %s, but %s has %s. Merge them one by one. Nothing was changed."
                .formatted(first, String.join(", ", names), path, String.join(", ", others)));
      }
    }
    List<String> paths = names.stream().map(name -> Schema.path(List.of(name))).toList();
    return names.isEmpty() ? schema : schema.select(paths);
  }

  MergeSource source(Schema columns) {
    return MergeSource.values(
        columns.columns().stream().map(column -> column.name()).toList(),
        target -> {
          for (Path path : files.paths()) {
            files.file(path).read(columns, target::add, bytes -> {});
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
