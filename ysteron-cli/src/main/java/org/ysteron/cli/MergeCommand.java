package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.ysteron.LakeHandle;
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
      "Merge files into a table by rules, in one commit.",
      "ACTION is one of: take (all columns of the files); take a,b; set a = expression,…; delete. Add ' if CONDITION' to limit an action to some rows; of several actions of one kind the first whose condition is true is used. In expressions and conditions the columns of the files are source.a, source.b, …"
    },
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron merge tide.gauges register.csv --matched \"set name = source.name\" --unmatched take")
final class MergeCommand extends LakeCommand {
  private static final Pattern CONDITIONAL =
      Pattern.compile("((?:[^']|'[^']*')*?)\\s+if\\s+(.*)", Pattern.DOTALL);

  @Mixin private SourceOptions source;

  @Option(
      names = "--matched",
      paramLabel = "ACTION",
      description = "Action for table rows that match a row of the files.")
  private List<String> matched = List.of();

  @Option(
      names = "--unmatched",
      paramLabel = "ACTION",
      description = "Action for rows of the files that match no table row.")
  private List<String> unmatched = List.of();

  @Option(
      names = "--not-in-source",
      paramLabel = "ACTION",
      description = "Action for table rows that match no row of the files.")
  private List<String> notInSource = List.of();

  @Mixin private ChangeOptions change;
  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, source.statement("merge")).table(source.table());
    Schema schema = target.schema();
    Schema columns = source.columns(target);
    Merge merge =
        source.applyTo(
            dryRun
                .on(target)
                .merge(source.source(columns, source.rules(target)))
                .style(change.style()));
    for (String text : matched) {
      merge = clause(text, schema, columns).add(merge, Merge::matched, Merge::matched);
    }
    for (String text : unmatched) {
      merge =
          clause(text, columns, columns)
              .add(
                  merge,
                  (to, test, action) -> to.unmatched(row -> test.test(row, row), action),
                  Merge::unmatched);
    }
    for (String text : notInSource) {
      merge =
          clause(text, schema, columns)
              .add(
                  merge,
                  (to, test, action) -> to.notInSource(row -> test.test(row, null), action),
                  Merge::notInSource);
    }
    WriteResult result = merge.run();
    DriftOptions.tell(result.grown(), out());
    out().println(ChangeOptions.report(result, source.table(), dryRun));
  }

  private record Clause(Optional<BiPredicate<Row, Row>> condition, MergeAction action) {
    /** The merge with this clause, which goes in with its condition or as it is. */
    Merge add(Merge to, Conditional conditional, BiFunction<Merge, MergeAction, Merge> plain) {
      return condition
          .map(test -> conditional.add(to, test, action))
          .orElseGet(() -> plain.apply(to, action));
    }
  }

  private interface Conditional {
    Merge add(Merge to, BiPredicate<Row, Row> test, MergeAction action);
  }

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
        "'%s' is not a merge action. Use take, take a,b, set a = expression or delete, with ' if CONDITION' after it if needed. Nothing was changed."
            .formatted(text));
  }
}
