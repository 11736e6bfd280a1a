package org.ysteron.cli;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import org.ysteron.report.DuplicateRow;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron duplicates}. */
@Command(
    name = "duplicates",
    description = {
      "List rows that have the same primary key as another row.",
      "The serial identifies a row for update and delete. The commit column is the number of the commit that last changed the row."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron duplicates tide.readings --limit 5")
final class DuplicatesCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "KEYS",
      defaultValue = "50",
      description = "List at most this many keys (default: 50).")
  private int limit;

  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    TableView view = opened.table(table).now();
    List<DuplicateRow> duplicates = view.duplicates(limit);
    List<String> columns = new ArrayList<>(view.schema().key());
    columns.add("serial");
    columns.add("commit");
    Listing list = listing.listing(out(), columns);
    for (DuplicateRow row : duplicates) {
      List<Object> cells = new ArrayList<>(List.of(row.key().values()));
      cells.add(row.serial());
      cells.add(row.birth());
      list.row(cells.toArray());
    }
    list.end();
    long keys = duplicates.stream().map(row -> row.key().values()).map(List::of).distinct().count();
    if (listing.isText() && keys == limit) {
      out().println("Listed %d keys. Use --limit to list more.".formatted(keys));
    }
  }
}
