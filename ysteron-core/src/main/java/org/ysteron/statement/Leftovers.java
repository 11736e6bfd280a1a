package org.ysteron.statement;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.HiddenColumns;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.drift.Drift;
import org.ysteron.drift.Findings;
import org.ysteron.drift.WriteRules;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Filter;
import org.ysteron.read.FileScan;
import org.ysteron.read.ReadContext;
import org.ysteron.read.ScanPlan;
import org.ysteron.table.Alteration;
import org.ysteron.table.FileEntry;
import org.ysteron.table.HistoryRecord;
import org.ysteron.table.TableHistory;
import org.ysteron.table.VersionPage;
import org.ysteron.transact.TableChange;

/**
 * What the leftovers column of a table holds, and lifting it into columns. A key names a member of
 * the JSON objects in it; {@code health.battery} one inside another.
 */
public final class Leftovers {
  private static final int MOST_SAMPLES = 3;

  private Leftovers() {}

  /**
   * What is known of a key.
   *
   * @param path the key
   * @param rows how many rows have it
   * @param types how many of its values have which type
   * @param since the version that inserted the oldest row with it
   * @param samples some values, as JSON
   */
  public record Key(
      String path, long rows, Map<String, Long> types, long since, List<String> samples) {}

  /**
   * A key that is to become a column.
   *
   * @param path the key
   * @param column the column's name
   * @param type its type; empty for the least that takes all values
   */
  public record Lifted(String path, String column, Optional<Type> type) {}

  /**
   * What a lift did.
   *
   * @param report the rows and files
   * @param misfits by key, how many values did not fit, and some of them; they stay left over
   */
  public record Outcome(ChangeReport report, Map<String, Misfits> misfits) {}

  /** Values that do not fit a column. */
  public record Misfits(long count, List<String> samples) {}

  private static Field column(VersionPage page) {
    return page.form()
        .leftoversColumn()
        .orElseThrow(
            () ->
                new NotFoundException(
                    "Table %s has no leftovers column, so that nothing was set aside."
                        .formatted(page.name())));
  }

  /** All keys, the most frequent first. */
  public static List<Key> keys(ReadContext context, TableHistory history) {
    VersionPage page = history.newest();
    List<Key> keys = new ArrayList<>();
    tallies(context, page)
        .forEach((path, tally) -> keys.add(tally.key(path, versionOf(tally.oldest, history))));
    keys.sort((a, b) -> Long.compare(b.rows, a.rows));
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
    ScanPlan plan = new ScanPlan(page, filter, context.pages());
    Optional<ScanPlan.Task> task = plan.next();
    while (task.isPresent()) {
      FileEntry file = task.get().entry();
      try (FileScan scan = new FileScan(context, page, task.get(), wanted, filter)) {
        Optional<Batch> batch = scan.next();
        while (batch.isPresent()) {
          for (int i = 0; i < batch.get().size(); i++) {
            Vector serials = batch.get().vectors().get(1);
            visitor.object(
                parsed(batch.get().vectors().get(0).get(i)),
                file.serial(serials, i, scan.position(i)));
          }
          batch = scan.next();
        }
      }
      task = plan.next();
    }
  }

  private static Map<?, ?> parsed(Object leftovers) {
    return leftovers instanceof String text && Json.parse(text) instanceof Map<?, ?> object
        ? object
        : Map.of();
  }

  private static final class Tally {
    private long rows;
    private long oldest = Long.MAX_VALUE;
    private final Map<String, Long> types = new TreeMap<>();
    private final List<String> samples = new ArrayList<>();

    Key key(String path, long since) {
      return new Key(path, rows, types, since, samples);
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
  public static Outcome lift(TableChange table, List<Lifted> keys) {
    VersionPage page = table.draft();
    Field leftovers = column(page);
    if (keys.isEmpty()) {
      throw new InvalidInputException("A lift needs a key of the leftovers.");
    }
    Map<Lifted, Type> types = new LinkedHashMap<>();
    Map<String, Optional<Type>> inferred = inferred(table.context(), page, leftovers, keys);
    for (Lifted key : keys) {
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
    Lifter lifter = new Lifter(table.draft().schema(), leftovers.name(), keys);
    List<Assignment> assignments = new ArrayList<>();
    for (int i = 0; i < keys.size(); i++) {
      int at = i;
      assignments.add(new Assignment(keys.get(i).column(), row -> lifter.of(row).values[at]));
    }
    assignments.add(new Assignment(leftovers.name(), row -> lifter.of(row).rest));
    Condition some = Condition.column(Schema.path(List.of(leftovers.name()))).isNotNull();
    ChangeReport report =
        new RowUpdate(
                table,
                new Selection(some, Optional.empty(), Optional.empty()),
                assignments,
                ChangeStyle.BY_SHARE,
                true)
            .run();
    lifter.check(page.name(), types);
    return new Outcome(report, lifter.misfits());
  }

  private static NotFoundException unknown(VersionPage page, Lifted key, Collection<String> known) {
    return new NotFoundException(
        "The leftovers of table %s have no key %s%s"
            .formatted(
                page.name(),
                key.path(),
                known.contains(key.path())
                    ? " whose values tell a type; name one."
                    : "." + org.ysteron.data.Names.didYouMean(key.path(), known)));
  }

  private static Map<String, Optional<Type>> inferred(
      ReadContext context, VersionPage page, Field leftovers, List<Lifted> keys) {
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
          for (Lifted key : keys) {
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

  private static Object find(Map<?, ?> object, List<String> path) {
    Object value = object;
    for (String name : path) {
      value = value instanceof Map<?, ?> inner ? inner.get(name) : null;
    }
    return value;
  }

  /** Takes a row's leftovers apart, once for all columns. */
  private static final class Lifter {
    private final Schema schema;
    private final String leftovers;
    private final List<Lifted> keys;
    private final Map<String, Misfits> misfits = new TreeMap<>();
    private final Set<Lifted> found = new HashSet<>();
    private final Set<Lifted> fitting = new HashSet<>();
    private Object last;
    private Taken taken;

    /** What is lifted of a row, and what is left. */
    private static final class Taken {
      private final Object[] values;
      private Object rest;

      Taken(int count) {
        values = new Object[count];
      }
    }

    Lifter(Schema schema, String leftovers, List<Lifted> keys) {
      this.schema = schema;
      this.leftovers = leftovers;
      this.keys = keys;
    }

    Map<String, Misfits> misfits() {
      return misfits;
    }

    /** Refuses a lift of what is nowhere, or fits nowhere. */
    void check(String table, Map<Lifted, Type> types) {
      for (Lifted key : keys) {
        if (!found.contains(key)) {
          throw new NotFoundException(
              "The leftovers of table %s have no key %s. Nothing was changed."
                  .formatted(table, key.path()));
        }
        if (!fitting.contains(key)) {
          Misfits all = misfits.get(key.path());
          throw new InvalidInputException(
              "Key %s of the leftovers of table %s has %d values, such as %s, of which none is a %s. Nothing was changed; name another type."
                  .formatted(
                      key.path(),
                      table,
                      all.count(),
                      String.join(", ", all.samples()),
                      types.get(key)));
        }
      }
    }

    /** All assignments of a row ask one after the other. */
    Taken of(Row row) {
      if (last == row) {
        return taken;
      }
      last = row;
      taken = new Taken(keys.size());
      Map<String, Object> rest = copy(parsed(row.get(leftovers)));
      for (int i = 0; i < keys.size(); i++) {
        Lifted key = keys.get(i);
        taken.values[i] = row.get(key.column());
        List<String> path = Schema.parsePath(key.path());
        Object value = find(rest, path);
        if (value == null) {
          continue;
        }
        found.add(key);
        if (taken.values[i] != null) {
          fitting.add(key);
          continue;
        }
        Type type = schema.find(Schema.path(List.of(key.column()))).type();
        try {
          taken.values[i] = fit(value, type);
          remove(rest, path);
          fitting.add(key);
        } catch (InvalidInputException e) {
          misfit(key.path(), value);
        }
      }
      taken.rest = rest.isEmpty() ? null : Json.write(rest);
      return taken;
    }

    private static Object fit(Object value, Type type) {
      boolean asText = type instanceof Type.Text && !(value instanceof String);
      return Json.fromJson(asText ? Json.write(value) : value, type);
    }

    private void misfit(String path, Object value) {
      Misfits before = misfits.getOrDefault(path, new Misfits(0, List.of()));
      List<String> samples = new ArrayList<>(before.samples());
      if (samples.size() < MOST_SAMPLES) {
        samples.add(Json.write(value));
      }
      misfits.put(path, new Misfits(before.count() + 1, samples));
    }

    private static Map<String, Object> copy(Map<?, ?> object) {
      Map<String, Object> copy = new LinkedHashMap<>();
      object.forEach(
          (name, value) ->
              copy.put((String) name, value instanceof Map<?, ?> inner ? copy(inner) : value));
      return copy;
    }

    /** Takes a member away, and the objects around it that are empty then. */
    private static void remove(Map<String, Object> object, List<String> path) {
      if (path.size() == 1) {
        object.remove(path.get(0));
        return;
      }
      @SuppressWarnings("unchecked") // made by copy
      Map<String, Object> inner = (Map<String, Object>) object.get(path.get(0));
      remove(inner, path.subList(1, path.size()));
      if (inner.isEmpty()) {
        object.remove(path.get(0));
      }
    }
  }
}
