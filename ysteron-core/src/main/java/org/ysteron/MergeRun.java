package org.ysteron;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.ysteron.data.Field;
import org.ysteron.internal.drift.SourceRows;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.merge.MergeClauses;
import org.ysteron.internal.merge.MergeSpec;
import org.ysteron.internal.merge.RowMerge;
import org.ysteron.internal.merge.RowSpool;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.option.MergeAction;
import org.ysteron.option.WriteRules;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.Grown;
import org.ysteron.report.WriteResult;

/** One run of a merge: reads the source first, or again on each state when it is a table. */
final class MergeRun {
  private final StatementRunner runner;
  private final MergeSource source;
  private final Instant now;
  private final Defaults defaults;
  private final MergeSpec spec;
  private final WriteRules rules;
  private Grown grown = Grown.NOTHING;

  MergeRun(
      StatementRunner runner, MergeSource source, MergeSpec spec, UnaryOperator<WriteRules> rules) {
    this.runner = runner;
    this.source = source;
    this.now = runner.core().now();
    this.defaults = new Defaults(now);
    this.spec = spec.at(now);
    this.rules = rules.apply(WriteRules.of(runner.table().settings()));
  }

  WriteResult run(String note) {
    return write(note).with(grown);
  }

  private WriteResult write(String note) {
    boolean takesAll =
        spec.clauses().stream().anyMatch(c -> c.action() instanceof MergeAction.TakeAll);
    boolean drifts = source.isNamed() || (takesAll && !rules.isPlain());
    Optional<Function<TableChange, MergeSource>> tracked = source.tracked(runner.core());
    if (tracked.isPresent()) {
      return runner.run(
          note,
          table -> {
            MergeSource seen = tracked.get().apply(table);
            if (drifts) {
              try (SourceRows rows =
                  seen.rows(table.draft(), rules, runner.core().reading(), defaults)) {
                return merge(table, rows);
              }
            }
            try (RowSpool spool = spool(seen, table.draft())) {
              return merge(table, spool);
            }
          });
    }
    if (drifts) {
      try (SourceRows rows =
          source.rows(runner.table(), rules, runner.core().reading(), defaults)) {
        return runner.run(note, table -> merge(table, rows));
      }
    }
    try (RowSpool spool = spool(source, runner.table())) {
      return runner.run(note, table -> merge(table, spool));
    }
  }

  private RowSpool spool(MergeSource rows, VersionPage table) {
    return rows.spool(table.schema(), runner.core().workers(), runner.core().watch(), defaults);
  }

  private ChangeReport merge(TableChange table, SourceRows rows) {
    table.grow(rows.alterations(table.draft().form()));
    grown = rows.grown();
    TableForm form = table.draft().form();
    List<Field> columns = rows.columns(form);
    try (RowSpool spool = new RowSpool(columns, runner.core().workers(), runner.core().watch())) {
      rows.forEach(form, (number, values) -> spool.add(defaults.in(values, columns)));
      return merge(table, spool.end());
    }
  }

  private ChangeReport merge(TableChange table, RowSpool spool) {
    MergeSpec bound =
        spec.on(MergeClauses.checkOn(spec.on(), table.draft().schema(), spool.columns()));
    return new RowMerge(table, bound, spool, now).run();
  }
}
