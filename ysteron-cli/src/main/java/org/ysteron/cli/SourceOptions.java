package org.ysteron.cli;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.ysteron.Merge;
import org.ysteron.MergeSource;
import org.ysteron.Table;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.WriteRules;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** The files that are merged into a table, and how their rows are matched. */
final class SourceOptions {
  @Mixin private FilesOptions files;
  @Mixin private DriftOptions drift;

  @Option(
      names = "--on",
      split = ",",
      paramLabel = "COLUMN",
      description = "Match rows on these columns (default: the primary key).")
  private List<String> on = List.of();

  @Option(
      names = "--last-wins",
      description = "If several rows of the files have the same key, use the last one.")
  private boolean lastWins;

  @Option(
      names = "--max-by",
      paramLabel = "COLUMN",
      description =
          "If several rows of the files have the same key, use the one with the largest value in this column.")
  private String greatest;

  @Option(names = "--only-changed", description = "Do not write rows whose values stay the same.")
  private boolean onlyDifferent;

  String table() {
    return files.table();
  }

  /** What the commit gives as its cause. */
  String statement(String command) {
    List<String> names = files.paths().stream().map(p -> p.getFileName().toString()).toList();
    return command + " " + table() + " " + String.join(" ", names);
  }

  /** Whether rows may differ in what columns they have, or can be read only once. */
  private boolean isNamed(WriteRules rules) {
    return !rules.isPlain() || !files.paths().stream().allMatch(Files::isRegularFile);
  }

  /** How the columns of the files meet those of the table. */
  WriteRules rules(Table table) {
    return drift.applyTo(WriteRules.of(table.now().settings()));
  }

  /** The columns of the files that the table has. */
  Schema columns(Table table) {
    Schema schema = table.schema();
    if (!files.paths().stream().allMatch(Files::isRegularFile)) {
      return schema;
    }
    boolean plain = rules(table).isPlain();
    Path first = files.paths().get(0);
    Set<String> names = new LinkedHashSet<>(files.file(first).columns());
    for (Path path : files.paths().subList(1, files.paths().size())) {
      List<String> others = files.file(path).columns();
      if (plain && !Set.copyOf(others).equals(names)) {
        throw new InvalidInputException(
            "%s has the columns %s, but %s has %s. Merge them one by one. Nothing was changed."
                .formatted(first, String.join(", ", names), path, String.join(", ", others)));
      }
      names.addAll(others);
    }
    List<String> paths =
        names.stream()
            .filter(name -> plain || schema.indexOf(name) >= 0)
            .map(name -> Schema.path(List.of(name)))
            .toList();
    return paths.isEmpty() ? schema : schema.select(paths);
  }

  /** The rows of the files. */
  MergeSource source(Schema columns, WriteRules rules) {
    if (isNamed(rules)) {
      return MergeSource.named(this::feed);
    }
    return MergeSource.values(
        columns.columns().stream().map(column -> column.name()).toList(),
        target -> {
          for (Path path : files.paths()) {
            files.file(path).read(columns, target);
          }
        });
  }

  private void feed(RowSink target) {
    for (Path path : files.paths()) {
      files.file(path).readNamed(target);
    }
  }

  /** Sets what the options say. */
  Merge applyTo(Merge merge) {
    Merge ruled = merge.rules(drift::applyTo);
    if (!on.isEmpty()) {
      ruled = ruled.on(on.toArray(String[]::new));
    }
    if (lastWins) {
      ruled = ruled.lastWins();
    }
    if (greatest != null) {
      ruled = ruled.maxWins(greatest);
    }
    return onlyDifferent ? ruled.onlyDifferent() : ruled;
  }
}
