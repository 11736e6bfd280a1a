package org.ysteron.cli;

import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.report.TableInfo;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron tables}. */
@Command(
    name = "tables",
    description = "List the tables of a lake.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron tables --at @before-the-fix")
final class TablesCommand extends LakeCommand {
  @Option(names = "--dropped", description = "List dropped tables that can be brought back.")
  private boolean dropped;

  @Mixin private AtOption at;
  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    LakeView view = at.view(opened);
    List<TableInfo> tables = dropped ? view.droppedTables() : view.tables();
    List<String> expired = dropped ? List.of() : view.expiredTables();
    if (!expired.isEmpty() && listing.isText()) {
      out().println("Expired as of then: " + String.join(", ", expired));
    }
    if (tables.isEmpty() && expired.isEmpty() && listing.isText()) {
      out().println(dropped ? "No table was dropped." : "The lake has no tables yet.");
      return;
    }
    Listing list = listing.listing(out(), "table", "version", "rows", "files", "bytes");
    for (TableInfo table : tables) {
      list.row(
          table.name(),
          table.version(),
          table.totals().rows(),
          table.totals().files(),
          table.totals().bytes());
    }
    list.end();
  }
}
