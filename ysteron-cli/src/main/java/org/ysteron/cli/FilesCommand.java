package org.ysteron.cli;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.Lake;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.expr.ColumnRange;
import org.ysteron.table.FileEntry;
import org.ysteron.table.Layout;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron files}. */
@Command(name = "files", description = "List the data files of a version, with their ranges.")
final class FilesCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "The table.")
  private String table;

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "FILES",
      defaultValue = "1000",
      description = "At most so many (default: 1000).")
  private int limit;

  @Option(
      names = "--ranges",
      description = "With the least and the greatest value of every tracked column.")
  private boolean ranges;

  @Mixin private AtOption at;
  @Mixin private Listing.Options listing;

  @Override
  void run(Lake opened) {
    TableView view = at.view(opened, table);
    if (ranges && listing.isText()) {
      Listing list = listing.listing(out(), "file", "rows", "column", "range");
      for (FileEntry file : view.files(limit)) {
        ranges(view, file)
            .forEach(
                (column, range) -> list.row(file.numbers().number(), file.rows(), column, range));
      }
      list.end();
      return;
    }
    if (listing.isText()) {
      boolean parts = view.layouts().values().stream().anyMatch(l -> !l.rules().isEmpty());
      List<String> columns =
          new ArrayList<>(List.of("file", "name", "rows", "masked", "bytes", "born"));
      if (parts) {
        columns.add("partition");
      }
      Listing list = listing.listing(out(), columns);
      for (FileEntry file : view.files(limit)) {
        String name = view.objectName(file);
        List<Object> cells = new ArrayList<>();
        cells.add(file.numbers().number());
        cells.add("…" + name.substring(name.lastIndexOf('/')));
        cells.add(file.rows());
        cells.add(file.numbers().maskedRows());
        cells.add(file.size());
        cells.add(born(file.numbers().births()));
        if (parts) {
          cells.add(view.partition(file));
        }
        list.row(cells.toArray());
      }
      list.end();
      return;
    }
    Listing list =
        listing.listing(
            out(),
            "file",
            "name",
            "rows",
            "masked",
            "bytes",
            "oldest birth",
            "newest birth",
            "partition",
            "sha-256",
            "ranges");
    for (FileEntry file : view.files(limit)) {
      list.row(
          file.numbers().number(),
          view.objectName(file),
          file.rows(),
          file.numbers().maskedRows(),
          file.size(),
          file.numbers().births().least(),
          file.numbers().births().greatest(),
          view.partition(file),
          file.hash(),
          ranges(view, file));
    }
    list.end();
  }

  /** The commits that gave the rows their values: the first and the last. */
  private static String born(FileEntry.Births births) {
    return births.least() == births.greatest()
        ? Long.toString(births.least())
        : births.least() + "–" + births.greatest();
  }

  private static Map<String, Object> ranges(TableView view, FileEntry file) {
    Map<String, Object> shown = new LinkedHashMap<>();
    for (Map.Entry<Integer, ColumnRange> range : file.trackedRanges().entrySet()) {
      if (Layout.isReserved(range.getKey())) {
        continue;
      }
      String column = view.schema().field(range.getKey()).map(Field::name).orElse("dropped");
      shown.put(column, range.getValue().toString());
    }
    return shown;
  }
}
