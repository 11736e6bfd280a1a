package org.ysteron.cli;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.Alteration;
import org.ysteron.sql.text.SqlAlter;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron alter}. */
@Command(
    name = "alter",
    description = {
      "Change columns, constraints and settings of a table in one commit.",
      "Data files are not rewritten. ACTIONS are actions of SQL's ALTER TABLE, separated by commas:",
      "  ADD [COLUMN] c type [NOT NULL] [DEFAULT value] [COMMENT 't'] [FIRST | AFTER c | BEFORE c]",
      "  DROP [COLUMN] c;  RENAME [COLUMN] c TO name;  MOVE [COLUMN] c FIRST | AFTER c | BEFORE c",
      "  ALTER [COLUMN] c SET DATA TYPE type | SET DEFAULT value | DROP DEFAULT",
      "                 | SET NOT NULL | DROP NOT NULL | SET COMMENT 't' | DROP COMMENT",
      "  ADD [CONSTRAINT n] CHECK (condition);  ADD PRIMARY KEY (c, …)",
      "  DROP CONSTRAINT n;  DROP PRIMARY KEY",
      "A column can be a path, such as health.battery or sensors.element.depth. A default is a value",
      "or an expression without columns, such as CURRENT_TIMESTAMP, computed once per statement."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron alter tide.readings \"ADD COLUMN wind_ms REAL, DROP COLUMN battery_mv\"")
final class AlterCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "ACTIONS",
      description =
          "Actions, such as 'ADD COLUMN salinity DOUBLE AFTER level_cm, RENAME COLUMN level_cm TO level'.")
  private String actions;

  @Option(
      names = "--set",
      paramLabel = "NAME=VALUE",
      description = "Table setting, such as drift=grow or file.bytes=1000000.")
  private Map<String, String> settings = new LinkedHashMap<>();

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    if (actions == null && settings.isEmpty()) {
      throw new InvalidInputException(
          "There is nothing to change. Give actions, such as 'ADD COLUMN c INTEGER', or --set.");
    }
    List<Alteration> alterations = new ArrayList<>();
    if (actions != null) {
      alterations.addAll(SqlAlter.parse(actions, opened.table(table).now()));
    }
    settings.forEach((name, value) -> alterations.add(new Alteration.SetSetting(name, value)));
    String statement = "ALTER TABLE " + table + (actions == null ? "" : " " + actions.strip());
    Table target = write.applyTo(opened, statement).table(table);
    target.alter().all(alterations).run();
    done(opened);
  }

  private void done(LakeHandle opened) {
    out()
        .println(
            "Altered %s: version %d. No data file was touched."
                .formatted(table, opened.table(table).now().version()));
  }
}
