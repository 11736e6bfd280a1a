package org.ysteron.cli;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.data.Values;
import org.ysteron.report.TableStatistics;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron statistics}. */
@Command(
    name = "statistics",
    description = {
      "Show or measure column statistics of a table.",
      "min, max and nulls are exact. distinct and median are estimates. The counts of frequent values are lower bounds."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron statistics tide.readings --measure --columns gauge_id,taken_at")
final class StatisticsCommand extends LakeCommand {
  private static final int SHOWN = 3;

  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Option(names = "--measure", description = "Measure the newest version first, in one scan.")
  private boolean measure;

  @Option(
      names = {"-c", "--columns"},
      paramLabel = "COLUMN",
      split = ",",
      description = "Measure only these columns (default: all columns of single values).")
  private List<String> columns = List.of();

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, "statistics " + table).table(table);
    Optional<TableStatistics> known =
        measure || !columns.isEmpty()
            ? Optional.of(target.measure(columns.toArray(String[]::new)))
            : target.now().statistics();
    if (known.isEmpty() && listing.isText()) {
      out().println("The values of %s were never measured; --measure does it.".formatted(table));
      return;
    }
    Listing list =
        listing.listing(out(), "column", "nulls", "distinct", "min", "median", "max", "frequent");
    for (TableStatistics.Column column : known.map(TableStatistics::columns).orElse(List.of())) {
      List<Object> at = column.quantiles();
      list.row(
          column.path(),
          column.nulls(),
          column.distinct(),
          at.isEmpty() ? null : shown(at.get(0)),
          at.isEmpty() ? null : shown(at.get(at.size() / 2)),
          at.isEmpty() ? null : shown(at.get(at.size() - 1)),
          frequent(column));
    }
    list.end();
    if (listing.isText()) {
      out()
          .println(
              "Version %d of %s, %s, was measured."
                  .formatted(
                      known.get().version(),
                      table,
                      Listing.count(known.get().rows(), "row", "rows")));
    }
  }

  /** As people read it; for programs numbers and booleans stay as they are. */
  private Object shown(Object value) {
    boolean isItself =
        value instanceof String || value instanceof Number || value instanceof Boolean;
    return isItself && !(listing.isText() && value instanceof Boolean) ? value : Values.show(value);
  }

  private Object frequent(TableStatistics.Column column) {
    if (!listing.isText()) {
      return column.frequent().stream()
          .map(each -> Map.of("value", shown(each.value()), "count", each.count()))
          .toList();
    }
    return String.join(
        ", ",
        column.frequent().stream()
            .limit(SHOWN)
            .map(each -> shown(each.value()) + " (" + Listing.number(each.count()) + ")")
            .toList());
  }
}
