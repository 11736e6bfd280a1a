package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import org.ysteron.Lake;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.expr.ColumnRange;
import org.ysteron.table.FileEntry;
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
      Listing list = listing.listing(out(), "file", "name", "rows", "masked", "bytes", "born");
      for (FileEntry file : view.files(limit)) {
        String name = view.objectName(file);
        list.row(
            file.numbers().number(),
            "…" + name.substring(name.lastIndexOf('/')),
            file.rows(),
            file.numbers().maskedRows(),
            file.size(),
            file.numbers().birth());
      }
      list.end();
      return;
    }
    Listing list =
        listing.listing(
            out(), "file", "name", "rows", "masked", "bytes", "born", "sha-256", "ranges");
    for (FileEntry file : view.files(limit)) {
      list.row(
          file.numbers().number(),
          view.objectName(file),
          file.rows(),
          file.numbers().maskedRows(),
          file.size(),
          file.numbers().birth(),
          file.hash(),
          ranges(view, file));
    }
    list.end();
  }

  private static Map<String, Object> ranges(TableView view, FileEntry file) {
    Map<String, Object> shown = new LinkedHashMap<>();
    for (Map.Entry<Integer, ColumnRange> range : file.trackedRanges().entrySet()) {
      String column = view.schema().field(range.getKey()).map(Field::name).orElse("dropped");
      shown.put(column, range.getValue().toString());
    }
    return shown;
  }
}
