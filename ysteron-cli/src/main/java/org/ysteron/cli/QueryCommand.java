package org.ysteron.cli;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.sql.SqlQuery;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron query}. */
@Command(
    name = "query",
    description = {
      "Run an SQL query on the newest state of the lake.",
      "All tables are read as of one commit. Write names that are SQL words in double quotes. SET SYSTEM_TIME and CREATE TEMPORARY VIEW can stand before the query, with semicolons; EXPLAIN and EXPLAIN ANALYZE before it show how it is carried out."
    },
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron query \"SELECT gauge_id, max(level_cm) FROM tide.readings GROUP BY gauge_id\"")
final class QueryCommand extends LakeCommand {
  private static final int CHECK_EVERY = 1000;

  @Parameters(paramLabel = "QUERY", description = "One query, and what is said before it.")
  private String query;

  @Option(
      names = "--schema",
      paramLabel = "NAMESPACE",
      description = "Namespace of tables whose names are given alone, such as tide.")
  private String schema;

  @Option(names = "--plan", description = "Print the plan instead of running the query.")
  private boolean plan;

  @Option(
      names = "--memory",
      paramLabel = "MIB",
      description =
          "Memory for joins, groups and sorts, in MiB (default: a quarter of the heap); the rest waits in temporary files.")
  private Long memory;

  @Option(
      names = {"-o", "--output"},
      paramLabel = "FILE",
      description = "Write the rows to a new Parquet file.")
  private Path output;

  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    SqlQuery made = SqlQuery.of(opened.now(), Optional.ofNullable(schema), query, List.of());
    if (plan) {
      out().println(made.plan());
      return;
    }
    made = memory == null ? made : made.within(memory << 20);
    if (output != null) {
      long rows = made.writeParquet(output);
      out().println("Wrote %s to %s.".formatted(Listing.count(rows, "row", "rows"), output));
      return;
    }
    List<Field> columns = new ArrayList<>();
    for (int c = 0; c < made.labels().size(); c++) {
      columns.add(made.schema().columns().get(c).withName(made.labels().get(c)));
    }
    Listing list = listing.rows(out(), columns);
    long printed = 0;
    try (Results<Row> rows = made.rows()) {
      for (Row row : rows) {
        list.row(row.values());
        if (++printed % CHECK_EVERY == 0 && out().checkError()) {
          return; // nobody reads any more, as with head
        }
      }
    }
    list.end();
  }
}
