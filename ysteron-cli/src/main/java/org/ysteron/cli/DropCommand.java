package org.ysteron.cli;

import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron drop}. */
@Command(
    name = "drop",
    description = "Drop a table. It can be brought back.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron drop tide.gauges")
final class DropCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    if (dryRun.isOn()) {
      TableView now = opened.table(table).now();
      out()
          .println(
              DryRunOption.NOTHING
                  + "%s, version %d, would be dropped: %s in %s (%s). It could be brought back."
                      .formatted(
                          table,
                          now.version(),
                          Listing.count(now.record().totals().rows(), "row", "rows"),
                          Listing.count(now.record().totals().files(), "file", "files"),
                          Listing.bytes(now.record().totals().bytes())));
      return;
    }
    write.applyTo(opened, "DROP TABLE " + table).dropTable(table);
    out().println("Dropped %s; 'ysteron bring-back %s' undoes it.".formatted(table, table));
  }
}
