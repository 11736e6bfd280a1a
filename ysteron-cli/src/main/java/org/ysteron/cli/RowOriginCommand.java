package org.ysteron.cli;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.history.MadeBy;
import org.ysteron.history.RowOrigin;
import org.ysteron.report.CommitStamp;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron row-origin}. */
@Command(
    name = "row-origin",
    description = {
      "Show which versions inserted and last changed some rows.",
      "If the version has expired, the versions that are possible are shown, such as 4 to 9."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron row-origin tide.readings --where \"gauge_id = 'ORR-01'\" --limit 3")
final class RowOriginCommand extends LakeCommand {
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
      description = "Columns to print (default: the primary key, or all columns).")
  private List<String> columns = List.of();

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "ROWS",
      defaultValue = "50",
      description = "Print at most this many rows (default: ${DEFAULT-VALUE}).")
  private long limit;

  @Mixin private AtOption at;
  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    TableView view = at.view(opened, table);
    List<String> shown = columns.isEmpty() ? view.schema().key() : columns;
    Schema schema = shown.isEmpty() ? view.schema() : view.schema().select(shown);
    List<Field> fields = new ArrayList<>(schema.columns());
    String between = listing.isText() ? " " : "_";
    for (String what : List.of("inserted", "changed")) {
      fields.add(Field.of(what, Types.text()));
      fields.add(Field.of(what + between + "at", Types.INSTANT));
      fields.add(Field.of(what + between + "by", Types.text()));
    }
    Listing list = listing.rows(out(), fields);
    long printed = 0;
    try (Results<RowOrigin> rows =
        view.origins(SqlCondition.parse(where, view.schema()), shown.toArray(String[]::new))) {
      for (RowOrigin row : rows) {
        if (printed++ == limit) {
          list.end();
          if (listing.isText()) {
            out()
                .println(
                    "Printed %s. Use --limit to print more."
                        .formatted(Listing.count(limit, "row", "rows")));
          }
          return;
        }
        List<Object> cells = new ArrayList<>();
        for (int i = 0; i < schema.columns().size(); i++) {
          cells.add(row.row().get(i));
        }
        add(row.inserted(), cells);
        add(row.changed(), cells);
        list.row(cells.toArray());
      }
    }
    list.end();
  }

  private void add(MadeBy by, List<Object> cells) {
    CommitStamp commit = by.version().commit();
    cells.add(number(by));
    cells.add(by.isExact() ? time(commit, listing) : null);
    cells.add(by.isExact() ? commit.author() : null);
  }

  /** When a commit was made; for people without fractions of a second. */
  static Instant time(CommitStamp commit, Listing.Options listing) {
    return listing.isText() ? commit.time().truncatedTo(ChronoUnit.SECONDS) : commit.time();
  }

  /** The number of a version, or of those that it can be. */
  static String number(MadeBy by) {
    long last = by.version().version();
    long first = by.after().map(kept -> kept.version() + 1).orElse(0L);
    return by.isExact() || first == last ? String.valueOf(last) : first + " to " + last;
  }
}
