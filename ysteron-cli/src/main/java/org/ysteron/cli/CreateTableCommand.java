package org.ysteron.cli;

import java.util.Map;
import java.util.TreeMap;
import org.ysteron.LakeHandle;
import org.ysteron.data.Schema;
import org.ysteron.option.TableSettings;
import org.ysteron.sql.text.SqlColumns;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron create-table}. */
@Command(
    name = "create-table",
    description = "Create a table from SQL column definitions.",
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron create-table tide.notes \"noted_at TIMESTAMP WITH TIME ZONE NOT NULL, text VARCHAR(200)\"")
final class CreateTableCommand extends LakeCommand {
  @Parameters(
      index = "0",
      paramLabel = "TABLE",
      description = "Name of the new table, such as tide.readings.")
  private String table;

  @Parameters(
      index = "1",
      paramLabel = "COLUMNS",
      description =
          "Column definitions, such as 'gauge_id VARCHAR(12) NOT NULL, …, PRIMARY KEY (gauge_id)'.")
  private String columns;

  @Option(
      names = "--set",
      paramLabel = "NAME=VALUE",
      description = "Table setting, such as drift=grow or file.bytes=1000000.")
  private Map<String, String> settings = new TreeMap<>();

  @Option(
      names = "--case-sensitive-names",
      description = "Allow column names that differ only by case.")
  private boolean namesByCase;

  @Mixin private LayoutOptions layout;

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Schema schema = SqlColumns.parse(columns, namesByCase);
    write
        .applyTo(opened, "CREATE TABLE " + table + " (" + columns.strip() + ")")
        .createTable(table, schema, tableSettings(), layout.plan());
    out()
        .println(
            "Created table %s with %s."
                .formatted(table, Listing.count(schema.columns().size(), "column", "columns")));
  }

  private TableSettings tableSettings() {
    TableSettings given = TableSettings.DEFAULTS;
    for (Map.Entry<String, String> setting : settings.entrySet()) {
      given = given.with(setting.getKey(), setting.getValue());
    }
    return given;
  }
}
