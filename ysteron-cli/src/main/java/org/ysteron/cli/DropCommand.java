package org.ysteron.cli;

import org.ysteron.Lake;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron drop}. */
@Command(
    name = "drop",
    description = "Drop a table; it can be brought back.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron drop tide.gauges")
final class DropCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    write.applyTo(opened, "DROP TABLE " + table).dropTable(table);
    out().println("Dropped %s; 'ysteron bring-back %s' undoes it.".formatted(table, table));
  }
}
