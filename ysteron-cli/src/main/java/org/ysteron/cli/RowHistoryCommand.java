package org.ysteron.cli;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.RowStep;
import org.ysteron.report.CommitStamp;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron row-history}. */
@Command(
    name = "row-history",
    description = {
      "Show what happened to some rows in all versions that are kept.",
      "Rows are selected by a condition, such as a key. A row whose key was updated is shown with both keys. If a version has expired, the versions that are possible are shown, such as 4 to 9."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron row-history tide.gauges --where \"gauge_id = 'ORR-01'\"")
final class RowHistoryCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      required = true,
      description = "SQL search condition for the rows.")
  private String where;

  @Option(
      names = {"-c", "--columns"},
      paramLabel = "COLUMN",
      split = ",",
      description = "Columns to compare and to print (default: all).")
  private List<String> columns = List.of();

  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    Table of = opened.table(table);
    Schema schema = of.schema();
    List<RowStep> steps =
        of.rowHistory(SqlCondition.parse(where, schema), columns.toArray(String[]::new));
    if (steps.isEmpty() && listing.isText()) {
      out().println("No version that is kept has a row that matches.");
      return;
    }
    List<Field> fields = new ArrayList<>();
    fields.add(Field.of("version", Types.text()));
    fields.add(Field.of("time", Types.INSTANT));
    fields.add(Field.of("operation", Types.text()));
    fields.add(Field.of("author", Types.text()));
    fields.add(Field.of("change", Types.text()));
    fields.add(Field.of("serial", Types.BIGINT));
    Schema shown = columns.isEmpty() ? schema : schema.select(columns);
    fields.addAll(shown.columns());
    Listing list = listing.rows(out(), fields);
    for (RowStep step : steps) {
      ChangedRow change = step.change();
      switch (change.kind()) {
        case INSERTED -> list.row(cells(step, "inserted", change.after(), shown));
        case DELETED -> list.row(cells(step, "deleted", change.before(), shown));
        default -> {
          list.row(cells(step, "updated from", change.before(), shown));
          list.row(cells(step, "updated to", change.after(), shown));
        }
      }
    }
    list.end();
  }

  private Object[] cells(RowStep step, String change, @Nullable Row row, Schema shown) {
    List<Object> cells = new ArrayList<>();
    boolean isExact = step.at().isExact();
    CommitStamp commit = step.at().version().commit();
    cells.add(RowOriginCommand.number(step.at()));
    cells.add(isExact ? RowOriginCommand.time(commit, listing) : null);
    cells.add(isExact ? ChangesCommand.operation(step.at().version()) : null);
    cells.add(isExact ? commit.author() : null);
    cells.add(change);
    cells.add(step.change().serial());
    for (Field column : shown.columns()) {
      boolean has =
          row != null
              && row.fields().stream().anyMatch(field -> field.name().equals(column.name()));
      cells.add(has ? row.get(column.name()) : null);
    }
    return cells.toArray();
  }
}
