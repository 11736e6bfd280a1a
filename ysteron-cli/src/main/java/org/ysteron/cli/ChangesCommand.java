package org.ysteron.cli;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.file.Path;
import java.time.Duration;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.SortedMap;
import java.util.stream.Collectors;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.InvalidInputException;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeStep;
import org.ysteron.history.ChangeSummary;
import org.ysteron.history.Changes;
import org.ysteron.internal.text.Decimals;
import org.ysteron.report.Position;
import org.ysteron.report.TableVersion;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron changes}. */
@Command(
    name = "changes",
    description = {
      "Show the rows that differ between two versions of a table.",
      "Rows are paired by their serials: inserted, deleted, or updated with the values before and after. If --from is the later version, the changes lead back."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron changes tide.readings --from 4 --to 9 --summary")
final class ChangesCommand extends LakeCommand {
  private static final int CHECK_EVERY = 1000;
  private static final int MOST_PARTITIONS = 20;

  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Spec private CommandSpec spec;

  @Option(
      names = "--from",
      paramLabel = "VERSION|TIME|BOOKMARK",
      description = "First version, as for scan --at (default: the one before the second version).")
  private String from;

  @Option(
      names = "--since",
      paramLabel = "POSITION",
      description = "What the reader with this position has yet to read, instead of --from.")
  private String since;

  @Option(
      names = "--to",
      paramLabel = "VERSION|TIME|BOOKMARK",
      description = "Second version, as for scan --at (default: the newest).")
  private String to;

  @Option(
      names = {"-w", "--where"},
      paramLabel = "CONDITION",
      description =
          "SQL search condition, tested on the rows of each version: a row that no longer matches is a deleted row.")
  private String where;

  @Option(
      names = {"-c", "--columns"},
      paramLabel = "COLUMN",
      split = ",",
      description = "Columns to compare and to print (default: all).")
  private List<String> columns = List.of();

  @Option(
      names = {"-n", "--limit"},
      paramLabel = "ROWS",
      description = "Print at most this many rows, or partitions of a summary (default: 20).")
  private Long limit;

  @ArgGroup private final Form form = new Form();

  /** What is printed instead of rows. */
  static final class Form {
    @Option(names = "--counts", description = "Print only how many rows differ; fast.")
    private boolean counts;

    @Option(
        names = "--summary",
        description = "Print how many rows differ, by kind, partition and column.")
    private boolean summary;

    @Option(
        names = "--steps",
        description = "Print one line for each version in between, with its counts.")
    private boolean steps;

    @Option(
        names = "--kept-steps",
        description = "Like --steps, but without versions that have expired.")
    private boolean keptSteps;

    @Option(
        names = {"-o", "--output"},
        paramLabel = "FILE",
        description = "Write the rows to a new Parquet file.")
    private Path output;
  }

  @Option(
      names = "--zone",
      paramLabel = "ZONE",
      description = "Time zone of times that have none (default: that of this machine).")
  private ZoneId zone;

  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    if (limit != null && (form.counts || form.steps || form.keptSteps || form.output != null)) {
      throw new ParameterException(
          spec.commandLine(), "--limit goes with printed rows and with --summary only");
    }
    Changes changes = changes(opened);
    if (form.counts) {
      counts(changes);
    } else if (form.summary) {
      summary(changes);
    } else if (form.steps || form.keptSteps) {
      steps(form.steps ? changes.steps() : changes.keptSteps());
    } else if (form.output != null) {
      long rows = changes.writeParquet(form.output);
      out().println("Wrote %s to %s.".formatted(Listing.count(rows, "row", "rows"), form.output));
    } else {
      rows(changes);
    }
  }

  /** The version up to which the reader has read. */
  private long read(LakeHandle lake) {
    Position position = lake.position(since);
    return position.tables().stream()
        .filter(of -> of.table().equals(table))
        .mapToLong(Position.OfTable::version)
        .findFirst()
        .orElseThrow(
            () ->
                new InvalidInputException(
                    "The position %s does not read table %s. It reads %s."
                        .formatted(
                            since,
                            table,
                            position.tables().stream()
                                .map(Position.OfTable::table)
                                .collect(Collectors.joining(", ")))));
  }

  private Changes changes(LakeHandle lake) {
    Table found = lake.table(table);
    if (since != null && from != null) {
      throw new ParameterException(spec.commandLine(), "Use either --since or --from.");
    }
    TableView later = to == null ? found.now() : TimeText.view(spec, "--to", to, zone, found);
    if (since != null) {
      return chosen(found.between(read(lake), later.version()), later);
    }
    if (from == null && later.version() == 0) {
      throw new InvalidInputException(
          "Version 0 of table %s is its first one; there is none before it to compare with. Give --from."
              .formatted(table));
    }
    TableView earlier =
        from == null
            ? found.at(later.version() - 1)
            : TimeText.view(spec, "--from", from, zone, found);
    return chosen(earlier.changesTo(later), earlier.version() > later.version() ? earlier : later);
  }

  private Changes chosen(Changes all, TableView newer) {
    Changes changes = columns.isEmpty() ? all : all.columns(columns);
    return where == null ? changes : changes.where(SqlCondition.parse(where, newer.schema()));
  }

  private void rows(Changes changes) {
    Listing list = listing.rows(out(), changes.flatSchema().columns());
    long printed = 0;
    try (Results<Batch> batches = changes.flat()) {
      for (Batch batch : batches) {
        for (Row row : batch.rows()) {
          if (limit != null && printed == limit) {
            list.end();
            return;
          }
          list.row(row.values());
          if (++printed % CHECK_EVERY == 0 && out().checkError()) {
            return; // nobody reads any more, as with head
          }
        }
      }
    }
    if (printed == 0 && listing.isText()) {
      head(changes);
      tell(ChangeCounts.NOTHING);
    } else {
      list.end();
    }
  }

  private void counts(Changes changes) {
    ChangeCounts counts = changes.count();
    if (listing.isText()) {
      head(changes);
      tell(counts);
      return;
    }
    Listing one =
        listing.listing(out(), "from", "to", "inserted", "deleted", "updated", "is exact");
    one.row(
        changes.from().version(),
        changes.to().version(),
        counts.inserted(),
        counts.deleted(),
        counts.updated(),
        counts.isExact());
    one.end();
  }

  private void head(Changes changes) {
    out()
        .println(
            "%s, version %d → version %d"
                .formatted(table, changes.from().version(), changes.to().version()));
  }

  private void tell(ChangeCounts counts) {
    if (counts.total() + counts.same() == 0) {
      out().println("No rows differ.");
      return;
    }
    line("inserted", counts.inserted(), "");
    line("deleted", counts.deleted(), "");
    line(
        "updated", counts.updated(), counts.isExact() ? "" : " at most (--summary counts exactly)");
    line("unchanged", counts.same(), " (written again with the same values)");
  }

  private void line(String kind, long rows, String more) {
    if (rows > 0) {
      out().println("  %-10s %s%s".formatted(kind, Listing.count(rows, "row", "rows"), more));
    }
  }

  private void summary(Changes changes) {
    ChangeSummary summary = changes.summary();
    if (!listing.isText()) {
      Listing.object(out(), SummaryJson.of(changes, summary));
      return;
    }
    head(changes);
    tell(summary.counts());
    if (!summary.columns().isEmpty()) {
      out().println();
      Listing list =
          listing.listing(
              out(),
              "column",
              "rows",
              "to null",
              "from null",
              "mean before",
              "mean after",
              "change");
      summary.columns().forEach(column -> list.row(cells(column)));
      list.end();
    }
    if (!summary.partitions().isEmpty()) {
      out().println();
      partitions(summary.partitions());
    }
  }

  private void partitions(SortedMap<String, ChangeCounts> partitions) {
    long most = limit == null ? MOST_PARTITIONS : limit;
    Listing list = listing.listing(out(), "partition", "inserted", "deleted", "updated");
    partitions.entrySet().stream()
        .limit(most)
        .forEach(
            part ->
                list.row(
                    part.getKey(),
                    some(part.getValue().inserted()),
                    some(part.getValue().deleted()),
                    some(part.getValue().updated())));
    list.end();
    Listing.tellMore(out(), most, partitions.size(), "partitions");
  }

  /** Zeros say nothing here. */
  private static Long some(long count) {
    return count == 0 ? null : (Long) count;
  }

  private static Object[] cells(ChangeSummary.OfColumn column) {
    return new Object[] {
      column.column(),
      column.differing(),
      some(column.toNull()),
      some(column.fromNull()),
      column.numbers().map(n -> rounded(n.meanBefore())).orElse(null),
      column.numbers().map(n -> rounded(n.meanAfter())).orElse(null),
      column
          .numbers()
          .map(ChangesCommand::moved)
          .or(() -> column.times().map(ChangesCommand::moved))
          .orElse("")
    };
  }

  private static String moved(ChangeSummary.Numbers numbers) {
    String least = signed(numbers.least());
    return numbers.least().compareTo(numbers.greatest()) == 0
        ? "all " + least
        : least + " to " + signed(numbers.greatest());
  }

  private static String moved(ChangeSummary.Times times) {
    return times.least().equals(times.greatest())
        ? "all " + signed(times.least())
        : signed(times.least()) + " to " + signed(times.greatest());
  }

  private static String signed(Duration time) {
    return (time.isNegative() ? "-" : time.isZero() ? "" : "+") + time.abs();
  }

  private static String signed(BigDecimal number) {
    return (number.signum() > 0 ? "+" : "") + Decimals.show(number);
  }

  private static BigDecimal rounded(BigDecimal mean) {
    int scale = Math.max(0, 5 - Math.max(0, mean.precision() - mean.scale()));
    return mean.scale() > scale ? mean.setScale(scale, RoundingMode.HALF_EVEN) : mean;
  }

  static String operation(TableVersion version) {
    return version.operation() + version.rewoundTo().map(v -> " to " + v).orElse("");
  }

  private void steps(List<ChangeStep> steps) {
    Listing list =
        listing.listing(
            out(),
            "version",
            "time",
            "operation",
            "inserted",
            "deleted",
            "updated",
            "author",
            "note");
    for (ChangeStep step : steps) {
      ChangeCounts counts = step.changes().countExactly();
      list.row(
          step.version().version(),
          listing.isText()
              ? step.version().commit().time().truncatedTo(ChronoUnit.SECONDS)
              : step.version().commit().time(),
          operation(step.version()),
          counts.inserted(),
          counts.deleted(),
          counts.updated(),
          step.version().commit().author(),
          step.version().commit().note());
    }
    list.end();
  }
}
