package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.drift.Findings;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.option.Alteration;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.Lift;
import org.ysteron.option.WriteRules;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.LeftoverKey;
import org.ysteron.report.LiftResult;

/**
 * What the leftovers column of a table holds, and lifting it into columns. A key names a member of
 * the JSON objects in it; {@code health.battery} one inside another.
 */
public final class Leftovers {
  static final int MOST_SAMPLES = 3;

  private Leftovers() {}

  /**
   * What a lift did.
   *
   * @param report the rows and files
   * @param misfits by key, how many values did not fit, and some of them; they stay left over
   */
  public record Outcome(ChangeReport report, Map<String, LiftResult.Misfits> misfits) {}

  private static Field column(VersionPage page) {
    return page.form()
        .leftoversColumn()
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.LEFTOVERS,
                    page.name(),
                    "Table %s has no leftovers column, so it has no leftovers."
                        .formatted(page.name())));
  }

  /** All keys, the most frequent first. */
  public static List<LeftoverKey> keys(ReadContext context, TableHistory history) {
    VersionPage page = history.newest();
    List<LeftoverKey> keys = new ArrayList<>();
    tallies(context, page)
        .forEach((path, tally) -> keys.add(tally.key(path, versionOf(tally.oldest, history))));
    keys.sort((a, b) -> Long.compare(b.rows(), a.rows()));
    return keys;
  }

  private static Map<String, Tally> tallies(ReadContext context, VersionPage page) {
    Map<String, Tally> tallies = new TreeMap<>();
    eachObject(context, page, column(page), (object, serial) -> tally("", object, serial, tallies));
    return tallies;
  }

  /** The version that inserted the row of a serial: the first that had given out so many. */
  private static long versionOf(long serial, TableHistory history) {
    long low = 0;
    long high = history.newest().version();
    while (low < high) {
      long middle = (low + high) >>> 1;
      long given = history.recordOf(middle).map(HistoryRecord::nextSerial).orElse(0L);
      low = given > serial ? low : middle + 1;
      high = given > serial ? middle : high;
    }
    return low;
  }

  private interface Visitor {
    void object(Map<?, ?> object, long serial);
  }

  private static void eachObject(
      ReadContext context, VersionPage page, Field column, Visitor visitor) {
    Condition some = Condition.column(Schema.path(List.of(column.name()))).isNotNull();
    Filter filter = page.filter(some, context.pages());
    List<Field> columns = List.of(column, HiddenColumns.serial(page.schema()));
    Schema wanted = Schema.stored(columns, List.of(), page.schema().lastId());
    ScanPlan plan = new ScanPlan(page, filter, context);
    Watch.Step step = context.watch().step("read leftovers", Progress.Unit.ROWS);
    FilesScan.of(context, plan, wanted, filter)
        .each(
            rows -> {
              Vector leftovers = rows.rows().vectors().get(0);
              for (int i = 0; i < rows.size(); i++) {
                visitor.object(parsed(leftovers.get(i)), rows.serial(i));
              }
              step.add(rows.size());
            });
  }

  static Map<?, ?> parsed(Object leftovers) {
    return leftovers instanceof String text && Json.parse(text) instanceof Map<?, ?> object
        ? object
        : Map.of();
  }

  private static final class Tally {
    private long rows;
    private long oldest = Long.MAX_VALUE;
    private final Map<String, Long> types = new TreeMap<>();
    private final List<String> samples = new ArrayList<>();

    LeftoverKey key(String path, long since) {
      return new LeftoverKey(path, rows, types, since, samples);
    }
  }

  private static void tally(
      String above, Map<?, ?> object, long serial, Map<String, Tally> tallies) {
    object.forEach(
        (name, value) -> {
          String path = Schema.below(above, (String) name);
          Tally tally = tallies.computeIfAbsent(path, p -> new Tally());
          tally.rows++;
          tally.oldest = Math.min(tally.oldest, serial);
          tally.types.merge(typeName(value), 1L, Long::sum);
          String sample = Json.write(value);
          if (tally.samples.size() < MOST_SAMPLES && !tally.samples.contains(sample)) {
            tally.samples.add(sample);
          }
          if (value instanceof Map<?, ?> inner) {
            tally(path, inner, serial, tallies);
          }
        });
  }

  private static String typeName(Object value) {
    if (value instanceof Map) {
      return "object";
    }
    return Findings.of(value, WriteRules.STRICT.with(Drift.SET_ASIDE)).toString();
  }

  /** Lifts keys into columns, which are added unless they are there, and fills the rows. */
  public static Outcome lift(TableChange table, List<Lift> keys) {
    VersionPage page = table.draft();
    Field leftovers = column(page);
    if (keys.isEmpty()) {
      throw new InvalidInputException("A lift needs at least one key of the leftovers.");
    }
    Map<Lift, Type> types = new LinkedHashMap<>();
    Map<String, Optional<Type>> inferred = inferred(table.context(), page, leftovers, keys);
    for (Lift key : keys) {
      Optional<Type> type =
          key.type().or(() -> inferred.getOrDefault(key.path(), Optional.empty()));
      types.put(key, type.orElseThrow(() -> unknown(page, key, inferred.keySet())));
    }
    List<Alteration> additions = new ArrayList<>();
    types.forEach(
        (key, type) -> {
          if (page.schema().struct().indexOf(key.column()) < 0) {
            additions.add(
                new Alteration.AddColumn("", Field.of(key.column(), type), Alteration.Place.LAST));
          }
        });
    table.alter(additions);
    LeftoversLift lifter = new LeftoversLift(table.draft().schema(), leftovers.name(), keys);
    List<Assignment> assignments = new ArrayList<>();
    for (int i = 0; i < keys.size(); i++) {
      int at = i;
      assignments.add(Assignment.by(keys.get(i).column(), row -> lifter.of(row).values[at]));
    }
    assignments.add(Assignment.by(leftovers.name(), row -> lifter.of(row).rest));
    Condition some = Condition.column(Schema.path(List.of(leftovers.name()))).isNotNull();
    ChangeReport report =
        new RowUpdate(table, Selection.UNTOLD.where(some), assignments, ChangeStyle.BY_SHARE, true)
            .run();
    lifter.check(page.name(), types);
    return new Outcome(report, lifter.misfits());
  }

  private static NotFoundException unknown(VersionPage page, Lift key, Collection<String> known) {
    return new NotFoundException(
        NotFoundException.Kind.LEFTOVERS,
        key.path(),
        "The leftovers of table %s have no key %s%s"
            .formatted(
                page.name(),
                key.path(),
                known.contains(key.path())
                    ? " whose values tell a type; name one."
                    : "." + org.ysteron.internal.text.NearNames.didYouMean(key.path(), known)));
  }

  private static Map<String, Optional<Type>> inferred(
      ReadContext context, VersionPage page, Field leftovers, List<Lift> keys) {
    if (keys.stream().allMatch(key -> key.type().isPresent())) {
      return Map.of();
    }
    Map<String, Findings> findings = new TreeMap<>();
    tallies(context, page).keySet().forEach(path -> findings.put(path, Findings.NOTHING));
    eachObject(
        context,
        page,
        leftovers,
        (object, serial) -> {
          for (Lift key : keys) {
            Object value = find(object, Schema.parsePath(key.path()));
            findings.computeIfPresent(
                key.path(),
                (path, before) ->
                    before.and(Findings.of(value, WriteRules.STRICT.with(Drift.SET_ASIDE))));
          }
        });
    Map<String, Optional<Type>> types = new TreeMap<>();
    findings.forEach((path, told) -> types.put(path, told.type()));
    return types;
  }

  static Object find(Map<?, ?> object, List<String> path) {
    Object value = object;
    for (String name : path) {
      value = value instanceof Map<?, ?> inner ? inner.get(name) : null;
    }
    return value;
  }
}
