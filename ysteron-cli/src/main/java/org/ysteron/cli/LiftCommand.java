package org.ysteron.cli;

import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.option.Lift;
import org.ysteron.report.LiftResult;
import org.ysteron.sql.text.SqlLift;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron lift}. */
@Command(
    name = "lift",
    description = {
      "Create columns from values that were set aside.",
      "Values that do not fit the column type stay in the leftovers column and are reported."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron lift tide.readings \"wave.height_m AS wave_m REAL\"")
final class LiftCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Parameters(
      index = "1..*",
      arity = "1..*",
      paramLabel = "KEY",
      description =
          "Key of the values, such as salinity, 'health.battery AS battery' or 'salinity AS salinity REAL'.")
  private List<String> keys;

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    List<Lift> lifted = keys.stream().map(SqlLift::parse).toList();
    LiftResult outcome =
        write.applyTo(opened, "lift " + table + " " + keys).table(table).lift(lifted);
    out()
        .println(
            "Lifted %s of %s into columns, in %s: version %d."
                .formatted(
                    Listing.count(lifted.size(), "key", "keys"),
                    table,
                    Listing.count(outcome.write().report().rowsUpdated(), "row", "rows"),
                    opened.table(table).now().version()));
    outcome
        .misfits()
        .forEach(
            (key, misfits) ->
                out()
                    .println(
                        "%s %s in the leftovers, such as %s."
                            .formatted(
                                Listing.count(misfits.count(), "value", "values") + " of " + key,
                                misfits.count() == 1
                                    ? "does not fit and stays"
                                    : "do not fit and stay",
                                String.join(", ", misfits.samples()))));
  }
}
