package org.ysteron.cli;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.LakeHandle;
import org.ysteron.TransactionTable;
import org.ysteron.data.Schema;
import org.ysteron.option.Alteration;
import org.ysteron.option.Isolation;
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
    SqlColumns.Table defined = SqlColumns.table(columns, namesByCase);
    Schema schema = defined.schema();
    List<Alteration> checks = new ArrayList<>();
    defined
        .checks()
        .forEach(one -> checks.add(new Alteration.AddCheck(one.name(), one.condition())));
    TableSettings given = tableSettings();
    write
        .applyTo(opened, "CREATE TABLE " + table + " (" + columns.strip() + ")")
        .runInTransaction(
            Isolation.SERIALIZABLE,
            work -> {
              TransactionTable created = work.createTable(table, schema, given, layout.plan());
              if (!checks.isEmpty()) {
                created.alter().all(checks).run();
              }
            });
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
