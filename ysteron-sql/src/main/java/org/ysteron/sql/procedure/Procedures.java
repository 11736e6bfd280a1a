package org.ysteron.sql.procedure;

import java.time.Duration;
import java.time.temporal.TemporalAmount;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.stream.Stream;
import org.ysteron.EditableTable;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.Transaction;
import org.ysteron.expr.Condition;
import org.ysteron.internal.text.NearNames;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.maintenance.Expiry;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.maintenance.Sweep;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.maintenance.UpkeepReport;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.inside.InsideStep;
import org.ysteron.sql.inside.InsideTable;
import org.ysteron.sql.inside.Wanted;
import org.ysteron.sql.plan.PlannedQuery;
import org.ysteron.sql.text.SqlCondition;
import org.ysteron.sql.text.SqlTextException;

/**
 * The procedures of schema {@code lake}, which do what the tool's commands of the same names do;
 * their reports are results. For one call.
 */
public final class Procedures {
  private static final String BUDGET = "budget => INTERVAL '10' MINUTE, files => n, bytes => n";
  private static final String CHANGED =
      "rows_inserted BIGINT, rows_updated BIGINT, rows_deleted BIGINT, files_written BIGINT";

  private static final Map<String, Procedure> ALL = new LinkedHashMap<>();

  static {
    add(
        "compact",
        "TABLE name, " + BUDGET + ", full => TRUE, renew => TRUE, where => 'condition'",
        "table,budget,files,bytes,full,renew,where",
        Procedures::compact);
    add(
        "rewrite",
        "TABLE name, older_layouts => TRUE, where => 'condition'",
        "table,older_layouts,where",
        Procedures::rewrite);
    add(
        "expire",
        "TABLE name, keep_for => INTERVAL '30' DAY, keep_newest => n, keep_thinned => 'day P1M'",
        "table,keep_for,keep_newest,keep_thinned",
        Procedures::expire);
    add(
        "sweep",
        BUDGET + ", after => INTERVAL '7' DAY, now => TRUE, full => TRUE, entries => TRUE",
        "budget,files,bytes,after,now,full,entries",
        Procedures::sweep);
    add("upkeep", BUDGET, "budget,files,bytes", Procedures::upkeep);
    add(
        "rewind",
        "TABLE name, to => point",
        "table,to",
        (self, given) -> self.rewound(given.table(self.arguments.table("table"))));
    add("bring_back", "TABLE name", "table", Procedures::bringBack);
    add(
        "bookmark",
        "'name', at => point, TABLE name, move => TRUE",
        "name,at,table,move",
        Procedures::bookmark);
    add(
        "drop_bookmark",
        "'name'",
        "name",
        (self, given) -> done(() -> given.dropBookmark(self.arguments.text("name"))));
    add(
        "position",
        "'name', TABLE name, at => point, keep_for => INTERVAL '30' DAY",
        "name,table,at,keep_for",
        Procedures::position);
    add(
        "drop_position",
        "'name'",
        "name",
        (self, given) -> done(() -> given.dropPosition(self.arguments.text("name"))));
    add("statistics", "TABLE name, columns => 'a, b'", "table,columns", Procedures::statistics);
    add("check", "depth => 'files', " + BUDGET, "depth,budget,files,bytes", Procedures::check);
  }

  private final LakeHandle lake;
  private final CallArguments arguments;

  /**
   * A procedure.
   *
   * @param form how it is called
   * @param names its parameters, in their order
   */
  private record Procedure(
      String form, List<String> names, BiFunction<Procedures, LakeHandle, InsideTable> run) {}

  /** For a call on a lake, whose commits name the statement. */
  public Procedures(LakeHandle lake, CallArguments arguments) {
    this.lake = lake;
    this.arguments = arguments;
  }

  private static void add(
      String name,
      String form,
      String parameters,
      BiFunction<Procedures, LakeHandle, InsideTable> run) {
    ALL.put(
        "lake." + name,
        new Procedure(
            "CALL lake.%s(%s)".formatted(name, form), List.of(parameters.split(",")), run));
  }

  /** How each procedure is called, by its name with the schema. */
  public static Map<String, String> forms() {
    Map<String, String> forms = new LinkedHashMap<>();
    ALL.forEach((name, procedure) -> forms.put(name, procedure.form));
    return forms;
  }

  private Procedure bound() {
    Procedure procedure = ALL.get(arguments.procedure());
    if (procedure == null) {
      throw arguments.wrong(
          "There is no procedure %s.%s"
              .formatted(
                  arguments.procedure(),
                  NearNames.didYouMean(arguments.procedure(), List.copyOf(ALL.keySet()))));
    }
    arguments.bind(procedure.form, procedure.names);
    return procedure;
  }

  /** Calls it. */
  public PlannedQuery call() {
    Procedure procedure = bound();
    try {
      return report(procedure.run.apply(this, lake));
    } catch (SqlTextException e) {
      throw e;
    } catch (org.ysteron.error.InvalidInputException e) {
      throw arguments.wrong(String.valueOf(e.getMessage()));
    }
  }

  /** Calls it within a transaction, which only a rewind can be. */
  public PlannedQuery callWithin(Transaction transaction) {
    bound();
    if (!arguments.procedure().equals("lake.rewind")) {
      throw arguments.wrong(
          "%s makes commits of its own and cannot be called in a transaction. Call it before the transaction or behind it."
              .formatted(arguments.procedure()));
    }
    return report(rewound(transaction.table(arguments.table("table"))));
  }

  private static PlannedQuery report(InsideTable table) {
    InsideStep step = new InsideStep(table, Wanted.ALL);
    List<String> labels = new ArrayList<>();
    table.columns().columns().forEach(column -> labels.add(column.name()));
    return new PlannedQuery(step, labels);
  }

  private static InsideTable table(String columns, List<Object[]> rows) {
    return InsideTable.of("report", columns, rows.size(), wanted -> rows.stream());
  }

  private static InsideTable changed(WriteResult result) {
    return table(
        CHANGED,
        List.<Object[]>of(
            InsideTable.row(
                result.report().rowsInserted(),
                result.report().rowsUpdated(),
                result.report().rowsDeleted(),
                result.report().filesAdded())));
  }

  private static InsideTable done(Runnable work) {
    work.run();
    return table("done BOOLEAN", List.<Object[]>of(InsideTable.row(true)));
  }

  private Condition where(TableView table) {
    return arguments.has("where")
        ? SqlCondition.parse(arguments.text("where"), table.schema())
        : Condition.all();
  }

  private InsideTable compact(LakeHandle given) {
    Table table = given.table(arguments.table("table"));
    Compaction compaction = table.compact().where(where(table.now())).within(arguments.budget());
    compaction = arguments.flag("full") ? compaction.full() : compaction;
    compaction = arguments.flag("renew") ? compaction.renewing() : compaction;
    return compacted(Map.of(table.name(), compaction.run()).entrySet().stream());
  }

  private static InsideTable compacted(Stream<Map.Entry<String, CompactionReport>> reports) {
    return table(
        "table_name VARCHAR, files_read BIGINT, files_written BIGINT, bytes_read BIGINT, bytes_written BIGINT, written_rows BIGINT, masked_rows BIGINT, skipped_files BIGINT, is_complete BOOLEAN",
        reports
            .map(
                one ->
                    InsideTable.row(
                        one.getKey(),
                        one.getValue().read().files(),
                        one.getValue().written().files(),
                        one.getValue().read().bytes(),
                        one.getValue().written().bytes(),
                        one.getValue().written().rows(),
                        one.getValue().maskedRows(),
                        (long) one.getValue().skipped().size(),
                        !one.getValue().isSpent()))
            .toList());
  }

  private InsideTable rewrite(LakeHandle given) {
    Table table = given.table(arguments.table("table"));
    var rewrite = table.rewrite().where(where(table.now()));
    return changed((arguments.flag("older_layouts") ? rewrite.ofOlderLayouts() : rewrite).run());
  }

  private InsideTable expire(LakeHandle given) {
    Expiry expiry =
        arguments.has("table") ? given.table(arguments.table("table")).expire() : given.expire();
    Optional<Retention> rules = arguments.retention();
    return expired((rules.isPresent() ? expiry.keeping(rules.get()) : expiry).run());
  }

  private static InsideTable expired(ExpiryReport report) {
    return table(
        "table_name VARCHAR, versions BIGINT, kept BIGINT, freed_files BIGINT, freed_bytes BIGINT, is_whole_table BOOLEAN",
        report.tables().stream()
            .map(
                gone ->
                    InsideTable.row(
                        gone.table(),
                        gone.versions(),
                        gone.kept(),
                        gone.freed(),
                        gone.bytes(),
                        gone.isWhole()))
            .toList());
  }

  private InsideTable sweep(LakeHandle given) {
    Sweep sweep = given.sweep().within(arguments.budget());
    Optional<TemporalAmount> after = arguments.span("after");
    sweep = after.isPresent() ? sweep.after(after.get()) : sweep;
    sweep = arguments.flag("now") ? sweep.now() : sweep;
    sweep = arguments.flag("full") ? sweep.full() : sweep;
    sweep = arguments.flag("entries") ? sweep.withEntries() : sweep;
    return swept(sweep.run());
  }

  private static InsideTable swept(SweepReport report) {
    return table(
        "kind VARCHAR, objects BIGINT, bytes BIGINT",
        report.deleted().entrySet().stream()
            .map(
                one ->
                    InsideTable.row(
                        one.getKey().name().toLowerCase(Locale.ROOT),
                        one.getValue().objects(),
                        one.getValue().bytes()))
            .toList());
  }

  private InsideTable upkeep(LakeHandle given) {
    UpkeepReport report = given.upkeep().within(arguments.budget()).run();
    List<Object[]> rows = new ArrayList<>();
    report
        .expiry()
        .tables()
        .forEach(
            gone ->
                rows.add(
                    InsideTable.row(
                        "expire", gone.table(), gone.versions() + " versions expired")));
    report
        .sweep()
        .deleted()
        .forEach(
            (kind, amount) ->
                rows.add(
                    InsideTable.row(
                        "sweep",
                        null,
                        "%d objects (%s) deleted"
                            .formatted(amount.objects(), kind.name().toLowerCase(Locale.ROOT)))));
    report
        .packed()
        .forEach(
            (table, packed) ->
                rows.add(
                    InsideTable.row(
                        "compact",
                        table,
                        "%d files became %d"
                            .formatted(packed.read().files(), packed.written().files()))));
    report.failed().forEach((table, why) -> rows.add(InsideTable.row("failed", table, why)));
    return table("step VARCHAR, table_name VARCHAR, what VARCHAR", rows);
  }

  private InsideTable rewound(EditableTable table) {
    long version = arguments.version("table", "to").version();
    table.rewind().to(version).run();
    return table(
        "table_name VARCHAR, rewound_to BIGINT",
        List.<Object[]>of(InsideTable.row(table.name(), version)));
  }

  private InsideTable bringBack(LakeHandle given) {
    Table table = given.bringBackTable(arguments.table("table"));
    return table(
        "table_name VARCHAR, version BIGINT",
        List.<Object[]>of(InsideTable.row(table.name(), table.now().version())));
  }

  private InsideTable bookmark(LakeHandle given) {
    String name = arguments.text("name");
    boolean moves = arguments.flag("move");
    if (arguments.has("table")) {
      Table table = given.table(arguments.table("table"));
      TableView version = arguments.has("at") ? arguments.version("table", "at") : table.now();
      return done(
          () -> {
            if (moves) {
              table.moveBookmark(name, version.version());
            } else {
              table.bookmark(name, version.version());
            }
          });
    }
    var time = (arguments.has("at") ? arguments.lake("at") : given.now()).commit().time();
    return done(
        () -> {
          if (moves) {
            given.moveBookmark(name, time);
          } else {
            given.bookmark(name, time);
          }
        });
  }

  private InsideTable position(LakeHandle given) {
    String name = arguments.text("name");
    String table = arguments.table("table");
    long version =
        (arguments.has("at") ? arguments.version("table", "at") : given.table(table).now())
            .version();
    Duration limit =
        arguments
            .span("keep_for")
            .map(span -> arguments.duration("keep_for", span))
            .orElse(Duration.ofDays(30));
    return done(() -> given.setPosition(name, Map.of(table, version), limit));
  }

  private InsideTable statistics(LakeHandle given) {
    String[] columns =
        arguments.has("columns")
            ? Stream.of(arguments.text("columns").split(","))
                .map(String::strip)
                .toArray(String[]::new)
            : new String[0];
    TableStatistics measured = given.table(arguments.table("table")).measure(columns);
    return table(
        "column_name VARCHAR, nulls BIGINT, distinct_values BIGINT, least VARCHAR, greatest VARCHAR",
        measured.columns().stream()
            .map(
                one ->
                    InsideTable.row(
                        one.path(),
                        one.nulls(),
                        one.distinct(),
                        one.quantiles().isEmpty() ? null : "" + one.quantiles().get(0),
                        one.quantiles().isEmpty()
                            ? null
                            : "" + one.quantiles().get(one.quantiles().size() - 1)))
            .toList());
  }

  private InsideTable check(LakeHandle given) {
    CheckDepth depth = arguments.has("depth") ? depth(arguments.text("depth")) : CheckDepth.FILES;
    CheckReport report = given.check().depth(depth).within(arguments.budget()).run();
    return table(
        "kind VARCHAR, object VARCHAR, problem VARCHAR, remedy VARCHAR",
        report.findings().stream()
            .map(
                one ->
                    InsideTable.row(
                        one.kind().name().toLowerCase(Locale.ROOT),
                        one.object(),
                        one.problem(),
                        one.remedy()))
            .toList());
  }

  private CheckDepth depth(String word) {
    for (CheckDepth one : CheckDepth.values()) {
      if (one.name().equalsIgnoreCase(word)) {
        return one;
      }
    }
    throw arguments.wrong(
        "The depth of a check is one of %s."
            .formatted(
                String.join(
                    ", ",
                    Stream.of(CheckDepth.values())
                        .map(one -> one.name().toLowerCase(Locale.ROOT))
                        .toList())));
  }
}
