package org.ysteron.cli;

import java.util.Map;
import java.util.TreeMap;
import org.ysteron.Lake;
import org.ysteron.data.Schema;
import org.ysteron.sql.SqlColumns;
import org.ysteron.table.TableProperties;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron create-table}. */
@Command(name = "create-table", description = "Create a table from SQL column definitions.")
final class CreateTableCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Its name, as in tide.readings.")
  private String table;

  @Parameters(
      index = "1",
      paramLabel = "COLUMNS",
      description = "As in 'gauge_id VARCHAR(12) NOT NULL, …, PRIMARY KEY (gauge_id)'.")
  private String columns;

  @Option(
      names = "--set",
      paramLabel = "NAME=NUMBER",
      description = "A table property: file.bytes, group.bytes or ranged.columns.")
  private Map<String, Long> properties = new TreeMap<>();

  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Schema schema = SqlColumns.parse(columns);
    write
        .applyTo(opened, "CREATE TABLE " + table + " (" + columns.strip() + ")")
        .createTable(table, schema, new TableProperties(properties));
    out()
        .println(
            "Created table %s with %s."
                .formatted(table, Listing.count(schema.columns().size(), "column", "columns")));
  }
}
