package org.ysteron.cli;

import org.ysteron.LakeHandle;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron rename}. */
@Command(
    name = "rename",
    description = "Rename a table.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron rename tide.gauges tide.stations")
final class RenameCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Parameters(index = "1", paramLabel = "NAME", description = "New name of the table.")
  private String name;

  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    write.applyTo(opened, "rename " + table + " to " + name).renameTable(table, name);
    out().println("Renamed %s to %s.".formatted(table, name));
  }
}
