package org.ysteron.cli;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import org.ysteron.report.TableFile;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron files}. */
@Command(
    name = "files",
    description = "List the data files of a table.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron files tide.readings --ranges --limit 3")
final class FilesCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "FILES",
      defaultValue = "1000",
      description = "List at most this many files (default: 1000).")
  private int limit;

  @Option(
      names = "--ranges",
      description = "Also show the minimum and maximum of each tracked column.")
  private boolean ranges;

  @Mixin private AtOption at;
  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    TableView view = at.view(opened, table);
    if (ranges && listing.isText()) {
      Listing list = listing.listing(out(), "file", "rows", "column", "range");
      for (TableFile file : view.files(limit)) {
        file.ranges()
            .forEach((column, range) -> list.row(file.number(), file.rows(), column, range));
      }
      list.end();
      tellMore(view);
      return;
    }
    if (listing.isText()) {
      boolean parts = view.layouts().values().stream().anyMatch(plan -> !plan.rules().isEmpty());
      List<String> columns =
          new ArrayList<>(List.of("file", "name", "rows", "masked", "bytes", "born"));
      if (parts) {
        columns.add("partition");
      }
      Listing list = listing.listing(out(), columns);
      for (TableFile file : view.files(limit)) {
        String name = file.name();
        List<Object> cells = new ArrayList<>();
        cells.add(file.number());
        cells.add("…" + name.substring(name.lastIndexOf('/')));
        cells.add(file.rows());
        cells.add(file.maskedRows());
        cells.add(file.bytes());
        cells.add(born(file));
        if (parts) {
          cells.add(file.partition());
        }
        list.row(cells.toArray());
      }
      list.end();
      tellMore(view);
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
            "sha256",
            "ranges");
    for (TableFile file : view.files(limit)) {
      list.row(
          file.number(),
          file.name(),
          file.rows(),
          file.maskedRows(),
          file.bytes(),
          file.oldestBirth(),
          file.newestBirth(),
          file.partition(),
          file.sha256(),
          ranges(file));
    }
    list.end();
  }

  private void tellMore(TableView view) {
    Listing.tellMore(out(), limit, view.record().totals().files(), "files");
  }

  private static Map<String, Object> ranges(TableFile file) {
    Map<String, Object> ranges = new LinkedHashMap<>();
    file.ranges()
        .forEach(
            (column, range) -> {
              Map<String, Object> told = new LinkedHashMap<>();
              told.put("min", range.min());
              told.put("max", range.max());
              told.put("nulls", range.nulls());
              ranges.put(column, told);
            });
    return ranges;
  }

  /** The commits that gave the rows their values: the first and the last. */
  private static String born(TableFile file) {
    return file.oldestBirth() == file.newestBirth()
        ? Long.toString(file.oldestBirth())
        : file.oldestBirth() + "–" + file.newestBirth();
  }
}
