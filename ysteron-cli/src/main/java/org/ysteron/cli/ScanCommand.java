package org.ysteron.cli;

import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.Scan;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron scan}. */
@Command(
    name = "scan",
    description = "Print rows of a table.",
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron scan tide.readings --where \"level_cm > 535\" --columns taken_at,level_cm --limit 6")
final class ScanCommand extends LakeCommand {
  private static final int CHECK_EVERY = 1000;

  @Mixin private SelectOptions select;

  @Option(
      names = {"-c", "--columns"},
      paramLabel = "COLUMN",
      split = ",",
      description = "Columns to print, such as gauge_id,health.battery (default: all).")
  private List<String> columns = List.of();

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "ROWS",
      description = "Print at most this many rows.")
  private Long limit;

  @Option(names = "--count", description = "Print only the number of rows.")
  private boolean count;

  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    Scan scan = select.scan(opened);
    scan = limit == null ? scan : scan.limit(limit);
    if (count) {
      Listing one = listing.listing(out(), "rows");
      one.row(scan.count());
      one.end();
      return;
    }
    scan = columns.isEmpty() ? scan : scan.columns(columns);
    Listing list = listing.rows(out(), scan.schema().columns());
    long printed = 0;
    try (Results<Row> rows = scan.rows()) {
      for (Row row : rows) {
        list.row(row.values());
        if (++printed % CHECK_EVERY == 0 && out().checkError()) {
          return; // nobody reads any more, as with head
        }
      }
    }
    list.end();
  }
}
