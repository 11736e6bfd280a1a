package org.ysteron.change;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Names;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.table.Alteration;

/**
 * Fits a row of named values into a table's columns, at every depth: finds columns by name,
 * converts what fits, and says how the table would have to grow, what is left over, and all that is
 * wrong. For one thread.
 */
final class RowFitter {
  private final Schema schema;
  private final WriteRules rules;
  private final int leftovers;
  private final Map<String, Map<String, Integer>> positions = new HashMap<>();
  private List<String> wrong;
  private List<Alteration> growth;

  /**
   * A row as the table takes it.
   *
   * @param values by column
   * @param growth what the table has to be altered by first; the values count only if empty
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
  record Fitted(Object[] values, List<Alteration> growth) {}

  /** {@code leftovers}: the position of the column for what is not known, or -1. */
  RowFitter(Schema schema, WriteRules rules, int leftovers) {
    this.schema = schema;
    this.rules = rules;
    this.leftovers = leftovers;
  }

  /**
   * Fits a row.
   *
   * @param row a {@link Row}, or the members of a JSON object by name
   * @throws InvalidInputException with every difference
   */
  Fitted fit(Object row) {
    wrong = new ArrayList<>();
    growth = new ArrayList<>();
    Map<String, Object> left = new LinkedHashMap<>();
    Object[] values = struct(row, schema.struct(), "", left);
    if (!left.isEmpty()) {
      setAside(values, left);
    }
    if (!wrong.isEmpty()) {
      throw new InvalidInputException(String.join("; ", wrong));
    }
    return new Fitted(values, growth);
  }

  private void setAside(Object[] values, Map<String, Object> left) {
    if (leftovers < 0) {
      growth.add(new Alteration.Grow("", Field.of(leftoversName(), Types.JSON)));
      growth.add(new Alteration.SetLeftovers(Optional.of(Schema.path(List.of(leftoversName())))));
      return;
    }
    Map<String, Object> all = new LinkedHashMap<>();
    if (values[leftovers] instanceof String given && Json.parse(given) instanceof Map<?, ?> own) {
      own.forEach((name, value) -> all.put((String) name, value));
    }
    all.putAll(left);
    values[leftovers] = Json.write(all);
  }

  private String leftoversName() {
    String name = "leftovers";
    while (schema.struct().indexOf(name) >= 0) {
      name += "_";
    }
    return name;
  }

  /** A named value as it came. */
  private record Member(String name, Object value, Optional<Type> declared) {}

  private static List<Member> members(Object container) {
    List<Member> members = new ArrayList<>();
    if (container instanceof Row row) {
      for (int i = 0; i < row.fields().size(); i++) {
        Field field = row.fields().get(i);
        members.add(new Member(field.name(), row.get(i), Optional.of(field.type())));
      }
    } else {
      ((Map<?, ?>) container)
          .forEach(
              (name, value) -> members.add(new Member((String) name, value, Optional.empty())));
    }
    return members;
  }

  private String fold(String name) {
    return rules.anyCase() ? name.toLowerCase(Locale.ROOT) : name;
  }

  private Object[] struct(Object given, Type.Struct type, String path, Map<String, Object> left) {
    Map<String, Integer> known = positions.computeIfAbsent(path, p -> known(type, p));
    Object[] values = new Object[type.fields().size()];
    String[] from = new String[values.length];
    for (Member member : members(given)) {
      Integer at = known.get(fold(member.name));
      if (at == null) {
        unknown(member, type, path, left);
        continue;
      }
      if (from[at] != null) {
        wrong.add(
            "%s and %s are both column %s"
                .formatted(
                    from[at], member.name, Schema.below(path, type.fields().get(at).name())));
      }
      from[at] = member.name;
      Field field = type.fields().get(at);
      Object rest = field(member, field, Schema.below(path, field.name()), values, at);
      if (rest != null) {
        left.put(member.name, rest);
      }
    }
    for (int i = 0; i < values.length; i++) {
      Field field = type.fields().get(i);
      boolean absent = from[i] == null;
      boolean takesDefault = absent || (rules.drift() != Drift.STRICT && field.required());
      if (values[i] == null && takesDefault) {
        values[i] = field.writeDefault().orElse(null);
      }
      if (values[i] == null && field.required()) {
        wrong.add(
            absent
                ? "column %s is missing, which is NOT NULL and has no default"
                    .formatted(Schema.below(path, field.name()))
                : "column %s is null, but NOT NULL".formatted(Schema.below(path, field.name())));
      }
    }
    return values;
  }

  private Map<String, Integer> known(Type.Struct type, String path) {
    Map<String, Integer> known = new LinkedHashMap<>();
    for (int i = 0; i < type.fields().size(); i++) {
      String name = type.fields().get(i).name();
      Integer other = known.put(fold(name), i);
      if (other != null) {
        throw new InvalidInputException(
            "columns %s and %s differ by case only, so that names of any case are ambiguous"
                .formatted(
                    Schema.below(path, type.fields().get(other).name()), Schema.below(path, name)));
      }
    }
    return known;
  }

  private void unknown(Member member, Type.Struct type, String path, Map<String, Object> left) {
    String full = Schema.below(path, member.name);
    switch (rules.drift()) {
      case GROW -> {
        Optional<Type> declared = member.declared.or(() -> typeOf(member.value, full));
        declared.ifPresent(
            found -> growth.add(new Alteration.Grow(path, Field.of(member.name, found))));
      }
      case SET_ASIDE -> {
        if (member.value != null) {
          left.put(member.name, json(member.value, member.declared));
        }
      }
      default -> {
        List<String> names = type.fields().stream().map(Field::name).toList();
        List<String> near = Names.near(member.name, names);
        String meant = near.isEmpty() ? "" : " (did you mean " + String.join(" or ", near) + "?)";
        wrong.add("there is no column " + Names.shown(full) + meant);
      }
    }
  }

  private Optional<Type> typeOf(Object value, String path) {
    try {
      return ValueTypes.of(value);
    } catch (InvalidInputException e) {
      wrong.add("column %s cannot be added: %s".formatted(path, e.getMessage()));
      return Optional.empty();
    }
  }

  private static Object json(Object value, Optional<Type> declared) {
    if (declared.isPresent()) {
      return Json.toJson(value, declared.get());
    }
    return value;
  }

  /** Fits one value; returns what is left over of it, or null. */
  private Object field(Member member, Field field, String path, Object[] values, int at) {
    Object value = member.value;
    if (value == null) {
      return null;
    }
    Type type = field.type();
    if (type instanceof Type.Struct struct && (value instanceof Row || value instanceof Map)) {
      Map<String, Object> left = new LinkedHashMap<>();
      values[at] = Row.of(struct, struct(value, struct, path, left));
      return left.isEmpty() ? null : left;
    }
    if (type instanceof Type.ListOf list && value instanceof List<?> elements) {
      return list(elements, member, list, path, values, at);
    }
    if (type instanceof Type.MapOf map && value instanceof Map<?, ?> entries) {
      return map(entries, member, map, path, values, at);
    }
    values[at] = single(value, member.declared, field, path);
    return null;
  }

  private Object list(
      List<?> elements, Member member, Type.ListOf list, String path, Object[] values, int at) {
    Optional<Type> declared =
        member.declared.map(type -> type instanceof Type.ListOf of ? of.element().type() : type);
    List<Object> fitted = new ArrayList<>();
    List<Object> left = new ArrayList<>();
    boolean some = false;
    for (Object element : elements) {
      Object[] one = new Object[1];
      Member inner = new Member("element", element, declared);
      Object rest = field(inner, list.element(), Schema.below(path, "element"), one, 0);
      required(one[0], list.element(), path);
      fitted.add(one[0]);
      left.add(rest);
      some |= rest != null;
    }
    values[at] = fitted;
    return some ? left : null;
  }

  private Object map(
      Map<?, ?> entries, Member member, Type.MapOf map, String path, Object[] values, int at) {
    Optional<Type> declared =
        member.declared.map(type -> type instanceof Type.MapOf of ? of.value().type() : type);
    Map<Object, Object> fitted = new LinkedHashMap<>();
    Map<String, Object> left = new LinkedHashMap<>();
    entries.forEach(
        (key, value) -> {
          Object[] one = new Object[1];
          Member inner = new Member(String.valueOf(key), value, declared);
          Object rest = field(inner, map.value(), Schema.below(path, "value"), one, 0);
          required(one[0], map.value(), path);
          fitted.put(single(key, Optional.empty(), map.key(), Schema.below(path, "key")), one[0]);
          if (rest != null) {
            left.put(String.valueOf(key), rest);
          }
        });
    values[at] = fitted;
    return left.isEmpty() ? null : left;
  }

  private void required(Object value, Field field, String path) {
    if (value == null && field.required()) {
      wrong.add("an element of column " + path + " is null, but NOT NULL");
    }
  }

  private Object single(Object value, Optional<Type> declared, Field field, String path) {
    Type type = field.type();
    try {
      if (declared.isEmpty()) {
        return Json.fromJson(value, type);
      }
      Type given = declared.get();
      boolean widens = !given.isNested() && !type.isNested() && Widening.isExact(given, type);
      return Values.accept(widens ? Widening.value(value, given, type) : value, type);
    } catch (InvalidInputException e) {
      Optional<Type> given = declared.or(() -> typeOf(value, path));
      Optional<Type> both = given.flatMap(other -> common(other, type));
      if (rules.drift() == Drift.GROW && both.isPresent() && !both.get().equals(type)) {
        growth.add(new Alteration.WidenColumn(path, both.get()));
      } else {
        wrong.add("column %s (%s): %s".formatted(path, type, e.getMessage()));
      }
      return null;
    }
  }

  private static Optional<Type> common(Type one, Type other) {
    return one.isNested() || other.isNested() ? Optional.empty() : Widening.common(one, other);
  }
}
