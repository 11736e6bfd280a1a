package org.ysteron.cli;

import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.Merge;
import org.ysteron.Table;
import org.ysteron.data.Schema;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.text.SqlMergeClause;
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
      SqlMergeClause clause = SqlMergeClause.matched(text, schema, columns);
      merge = clause.addTo(merge, Merge::matched, Merge::matched);
    }
    for (String text : unmatched) {
      SqlMergeClause clause = SqlMergeClause.unmatched(text, schema, columns);
      merge = clause.addTo(merge, Merge::unmatched, Merge::unmatched);
    }
    for (String text : notInSource) {
      SqlMergeClause clause = SqlMergeClause.matched(text, schema, columns);
      merge = clause.addTo(merge, Merge::notInSource, Merge::notInSource);
    }
    WriteResult result = merge.run();
    DriftOptions.tell(result.grown(), out());
    out().println(ChangeOptions.report(result, source.table(), dryRun));
  }
}
