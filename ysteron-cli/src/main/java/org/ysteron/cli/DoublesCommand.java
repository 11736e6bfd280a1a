package org.ysteron.cli;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.Lake;
import org.ysteron.TableView;
import org.ysteron.report.KeySharer;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron doubles}. */
@Command(
    name = "doubles",
    description = {
      "List rows that share their primary key with another one.",
      "With them stand the serials by which update and delete find them, and the numbers of the commits that gave them their values."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron doubles tide.readings --limit 5")
final class DoublesCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "KEYS",
      defaultValue = "50",
      description = "At most so many keys (default: 50).")
  private int limit;

  @Mixin private Listing.Options listing;

  @Override
  void run(Lake opened) {
    TableView view = opened.table(table).now();
    List<KeySharer> doubles = view.doubles(limit);
    List<String> columns = new ArrayList<>(view.schema().key());
    columns.add("serial");
    columns.add("commit");
    Listing list = listing.listing(out(), columns);
    for (KeySharer row : doubles) {
      List<Object> cells = new ArrayList<>(List.of(row.key().values()));
      cells.add(row.serial());
      cells.add(row.birth());
      list.row(cells.toArray());
    }
    list.end();
    long keys = doubles.stream().map(row -> row.key().values()).map(List::of).distinct().count();
    if (listing.isText() && keys == limit) {
      out().println("These are %d keys; --limit lists more, if there are more.".formatted(keys));
    }
  }
}
