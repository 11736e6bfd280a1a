package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.ysteron.Lake;
import org.ysteron.Merge;
import org.ysteron.Table;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.MergeAction;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.RowFunction;
import org.ysteron.sql.SqlExpression;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron merge}. */
@Command(
    name = "merge",
    description = {
      "Merge the rows of files into a table, in one commit.",
      "An ACTION is one of: take (all columns of the file), take a,b, set a = expression,…, delete;",
      "with \" if CONDITION\" behind it, it is for those rows only. The file's columns are",
      "source.a, source.b, … in expressions and conditions. Of several actions of one kind the",
      "first whose condition holds is done."
    })
final class MergeCommand extends LakeCommand {
  private static final Pattern CONDITIONAL =
      Pattern.compile("((?:[^']|'[^']*')*?)\\s+if\\s+(.*)", Pattern.DOTALL);

  @Mixin private SourceOptions source;

  @Option(
      names = "--matched",
      paramLabel = "ACTION",
      description = "For rows of the table that match one of the file.")
  private List<String> matched = List.of();

  @Option(
      names = "--unmatched",
      paramLabel = "ACTION",
      description = "For rows of the file that match none of the table.")
  private List<String> unmatched = List.of();

  @Option(
      names = "--not-in-source",
      paramLabel = "ACTION",
      description = "For rows of the table that match none of the file.")
  private List<String> notInSource = List.of();

  @Mixin private ChangeOptions change;
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Table target = write.applyTo(opened, source.statement("merge")).table(source.table());
    Schema schema = target.schema();
    Schema columns = source.columns(target);
    Merge merge =
        source.applyTo(
            target.merge(source.source(columns, source.rules(target))).style(change.style()));
    for (String text : matched) {
      Clause clause = clause(text, schema, columns);
      Merge before = merge;
      merge =
          clause
              .condition
              .map(condition -> before.matched(condition, clause.action))
              .orElseGet(() -> before.matched(clause.action));
    }
    for (String text : unmatched) {
      Clause clause = clause(text, columns, columns);
      Merge before = merge;
      merge =
          clause
              .condition
              .map(c -> before.unmatched(row -> c.test(row, row), clause.action))
              .orElseGet(() -> before.unmatched(clause.action));
    }
    for (String text : notInSource) {
      Clause clause = clause(text, schema, columns);
      Merge before = merge;
      merge =
          clause
              .condition
              .map(c -> before.notInSource(row -> c.test(row, null), clause.action))
              .orElseGet(() -> before.notInSource(clause.action));
    }
    WriteResult result = merge.run();
    DriftOptions.tell(result.grown(), out());
    out().println(ChangeOptions.report(result, source.table()));
  }

  private record Clause(Optional<BiPredicate<Row, Row>> condition, MergeAction action) {}

  private static Clause clause(String text, Schema schema, Schema columns) {
    Matcher conditional = CONDITIONAL.matcher(text);
    if (!conditional.matches()) {
      return new Clause(Optional.empty(), action(text.strip(), schema, columns));
    }
    RowFunction condition = SqlExpression.parse(conditional.group(2), schema, Optional.of(columns));
    return new Clause(
        Optional.of((row, given) -> Boolean.TRUE.equals(condition.apply(row, given))),
        action(conditional.group(1).strip(), schema, columns));
  }

  private static MergeAction action(String text, Schema schema, Schema columns) {
    if (text.equals("delete")) {
      return Merge.delete();
    }
    if (text.equals("take")) {
      return Merge.takeAll();
    }
    if (text.startsWith("take ")) {
      return Merge.take(text.substring("take ".length()).strip().split("\\s*,\\s*", -1));
    }
    if (text.startsWith("set ")) {
      Map<String, BiFunction<Row, Row, Object>> values = new LinkedHashMap<>();
      SqlExpression.assignments(text.substring("set ".length()), schema, Optional.of(columns))
          .forEach(values::put);
      return Merge.set(values);
    }
    throw new InvalidInputException(
        "\"%s\" is no action of a merge; it is one of take, take a,b, set a = expression, delete, with \" if CONDITION\" behind it where wanted. Nothing was changed."
            .formatted(text));
  }
}
