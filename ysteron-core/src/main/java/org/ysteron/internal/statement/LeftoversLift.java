package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.option.Lift;
import org.ysteron.report.LiftResult;

/** Takes a row's leftovers apart, once for all columns. */
final class LeftoversLift {
  private final Schema schema;
  private final String leftovers;
  private final List<Lift> keys;
  private final Map<String, LiftResult.Misfits> misfits = new TreeMap<>();
  private final Set<Lift> found = new HashSet<>();
  private final Set<Lift> fitting = new HashSet<>();
  private Object last;
  private Taken taken;

  /** What is lifted of a row, and what is left. */
  static final class Taken {
    final Object[] values;
    Object rest;

    Taken(int count) {
      values = new Object[count];
    }
  }

  LeftoversLift(Schema schema, String leftovers, List<Lift> keys) {
    this.schema = schema;
    this.leftovers = leftovers;
    this.keys = keys;
  }

  Map<String, LiftResult.Misfits> misfits() {
    return misfits;
  }

  /** Refuses a lift of what is nowhere, or fits nowhere. */
  void check(String table, Map<Lift, Type> types) {
    for (Lift key : keys) {
      if (!found.contains(key)) {
        throw new NotFoundException(
            NotFoundException.Kind.LEFTOVERS,
            key.path(),
            "The leftovers of table %s have no key %s. Nothing was changed."
                .formatted(table, key.path()));
      }
      if (!fitting.contains(key)) {
        LiftResult.Misfits all = misfits.get(key.path());
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
    Map<String, Object> rest = copy(Leftovers.parsed(row.get(leftovers)));
    for (int i = 0; i < keys.size(); i++) {
      Lift key = keys.get(i);
      taken.values[i] = row.get(key.column());
      List<String> path = Schema.parsePath(key.path());
      Object value = Leftovers.find(rest, path);
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
    LiftResult.Misfits before = misfits.getOrDefault(path, new LiftResult.Misfits(0, List.of()));
    List<String> samples = new ArrayList<>(before.samples());
    if (samples.size() < Leftovers.MOST_SAMPLES) {
      samples.add(Json.write(value));
    }
    misfits.put(path, new LiftResult.Misfits(before.count() + 1, samples));
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
