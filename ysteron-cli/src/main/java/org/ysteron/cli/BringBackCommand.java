package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.Table;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron bring-back}. */
@Command(
    name = "bring-back",
    description = "Bring back a dropped table.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron bring-back tide.gauges")
final class BringBackCommand extends LakeCommand {
  @Parameters(
      index = "0",
      paramLabel = "TABLE",
      description = "Name that the table had when it was dropped.")
  private String table;

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table back = write.applyTo(opened, "bring back " + table).bringBackTable(table);
    out()
        .println(
            "Brought %s back with %s."
                .formatted(table, Listing.count(back.scan().count(), "row", "rows")));
  }
}
