package org.ysteron.data;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.text.SqlNames;

/**
 * The columns of a table, in order, and which of them are its primary key. Immutable.
 *
 * <p>A path names a column or a field inside structs: {@code health.battery}. A name that holds a
 * dot or a double quote is written in double quotes, a quote inside doubled.
 */
public final class Schema {
  /** No columns at all: what an expression is given that must not use any. */
  public static final Schema NO_COLUMNS = stored(List.of(), List.of(), 0);

  private final Type.Struct struct;
  private final List<Integer> keyIds;
  private final int lastId;
  private final Map<Integer, Field> byId = new HashMap<>();
  private volatile @Nullable Map<String, Integer> places;

  private Schema(Type.Struct struct, List<Integer> keyIds, int lastId) {
    this.struct = struct;
    this.keyIds = List.copyOf(keyIds);
    this.lastId = lastId;
    index(struct);
    for (int id : this.keyIds) {
      if (!byId.containsKey(id)) {
        throw new InvalidInputException(
            "The key refers to field " + id + ", which does not exist.");
      }
    }
  }

  /** A schema of new columns without a key; ids are given in order, inner fields after outer. */
  public static Schema of(Field... columns) {
    return of(List.of(columns));
  }

  /**
   * A schema of new columns without a key.
   *
   * @throws InvalidInputException when the names of two columns differ by case only, which many
   *     readers do not distinguish; {@link #ofNamesByCase} allows it
   */
  public static Schema of(List<Field> columns) {
    return of(columns, false);
  }

  /**
   * A schema of new columns without a key, whose names may differ by case only: case-sensitive
   * names.
   */
  public static Schema ofNamesByCase(List<Field> columns) {
    return of(columns, true);
  }

  private static Schema of(List<Field> columns, boolean byCase) {
    if (columns.isEmpty()) {
      throw new InvalidInputException("A table needs at least one column.");
    }
    int[] last = {0};
    Type.Struct struct = (Type.Struct) number(new Type.Struct(columns), last);
    checkNames(struct, "", byCase, 0);
    return new Schema(struct, List.of(), last[0]);
  }

  /** A schema whose fields have their ids already, as read from a table. */
  public static Schema stored(List<Field> columns, List<Integer> keyIds, int lastId) {
    return new Schema(new Type.Struct(columns), keyIds, lastId);
  }

  /** This schema with a primary key; its columns become NOT NULL. */
  public Schema withKey(String... names) {
    List<Integer> ids = new ArrayList<>();
    List<Field> columns = new ArrayList<>(columns());
    for (String name : names) {
      int at = struct.indexOf(name);
      if (at < 0) {
        throw new NotFoundException(
            NotFoundException.Kind.COLUMN,
            name,
            "The primary key names column %s, which does not exist.%s"
                .formatted(name, NearNames.didYouMean(name, names(struct.fields()))));
      }
      Field column = columns.get(at);
      if (column.type().isNested()) {
        throw InvalidInputException.ofColumn(
            name, "Column %s is %s and cannot be in a primary key.".formatted(name, column.type()));
      }
      if (ids.contains(column.id())) {
        throw new InvalidInputException("The primary key names column " + name + " twice.");
      }
      ids.add(column.id());
      columns.set(at, column.notNull());
    }
    return new Schema(new Type.Struct(columns), ids, lastId);
  }

  public Type.Struct struct() {
    return struct;
  }

  public List<Field> columns() {
    return struct.fields();
  }

  /** The ids of the primary key's columns, in key order; empty without a key. */
  public List<Integer> keyIds() {
    return keyIds;
  }

  private Field known(int id) {
    return Objects.requireNonNull(byId.get(id));
  }

  /** The names of the primary key's columns. */
  public List<String> key() {
    return keyIds.stream().map(id -> known(id).name()).toList();
  }

  /** The highest id that any field of this table ever had. */
  public int lastId() {
    return lastId;
  }

  /** The position of a column by its name, or -1; in constant time. */
  public int indexOf(String name) {
    Map<String, Integer> known = places;
    if (known == null) {
      known = new HashMap<>();
      for (int i = 0; i < columns().size(); i++) {
        known.put(columns().get(i).name(), i);
      }
      places = known;
    }
    return known.getOrDefault(name, -1);
  }

  /** The field of that id, at any depth. */
  public Optional<Field> field(int id) {
    return Optional.ofNullable(byId.get(id));
  }

  /**
   * The fields along a path; the last one is the field that the path names.
   *
   * @throws NotFoundException with the near names when there is none
   */
  public List<Field> resolve(String path) {
    List<Field> along = new ArrayList<>();
    Type.Struct level = struct;
    List<String> names = parsePath(path);
    for (int i = 0; i < names.size(); i++) {
      int at = level.indexOf(names.get(i));
      if (at < 0) {
        String where = i == 0 ? "" : " in " + String.join(".", names.subList(0, i));
        throw new NotFoundException(
            NotFoundException.Kind.COLUMN,
            path,
            "There is no column %s%s.%s"
                .formatted(
                    names.get(i),
                    where,
                    NearNames.didYouMean(names.get(i), names(level.fields()))));
      }
      Field field = level.fields().get(at);
      along.add(field);
      if (i + 1 < names.size()) {
        if (!(field.type() instanceof Type.Struct inner)) {
          throw new NotFoundException(
              NotFoundException.Kind.COLUMN,
              path,
              "Column %s is %s and has no field %s."
                  .formatted(field.name(), field.type(), names.get(i + 1)));
        }
        level = inner;
      }
    }
    return along;
  }

  /**
   * The field at a path that may also lead into lists ({@code element}) and maps ({@code key},
   * {@code value}).
   *
   * @throws NotFoundException with the near names when there is none
   */
  public Field find(String path) {
    List<Field> level = columns();
    @Nullable Field found = null;
    List<String> names = parsePath(path);
    for (int i = 0; i < names.size(); i++) {
      String name = names.get(i);
      if (found != null && !found.type().isNested()) {
        throw new NotFoundException(
            NotFoundException.Kind.COLUMN,
            path,
            "Column %s is %s and has no field %s."
                .formatted(path(names.subList(0, i)), found.type(), name));
      }
      String where = i == 0 ? "" : " in " + path(names.subList(0, i));
      List<String> known = names(level);
      found =
          level.stream()
              .filter(field -> field.name().equals(name))
              .findFirst()
              .orElseThrow(
                  () ->
                      new NotFoundException(
                          NotFoundException.Kind.COLUMN,
                          path,
                          "There is no column %s%s.%s"
                              .formatted(name, where, NearNames.didYouMean(name, known))));
      level = children(found.type());
    }
    return Objects.requireNonNull(found, "a path has a name");
  }

  /**
   * The path of the field of an id, as {@link #find} takes it.
   *
   * @throws NotFoundException when there is none
   */
  public String pathOf(int id) {
    List<String> names = new ArrayList<>();
    if (!findId(struct, id, names)) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          String.valueOf(id),
          "There is no column with the id " + id + ".");
    }
    Collections.reverse(names);
    return path(names);
  }

  private static boolean findId(Type type, int id, List<String> names) {
    for (Field field : children(type)) {
      if (field.id() == id || findId(field.type(), id, names)) {
        names.add(field.name());
        return true;
      }
    }
    return false;
  }

  /** A field to be added, with new ids above the highest one, at any depth. */
  public Field numbered(Field field) {
    int[] last = {lastId};
    Field outer = field.withId(++last[0]);
    Field inner = outer.withType(number(outer.type(), last));
    check(inner, field.name(), true, 0);
    return inner;
  }

  /** The highest id in a field, its own or one inside. */
  public static int highestId(Field field) {
    int highest = field.id();
    for (Field child : children(field.type())) {
      highest = Math.max(highest, highestId(child));
    }
    return highest;
  }

  /**
   * The schema of the named columns only, in the order of the names; of a struct only the named
   * fields. Ids stay.
   */
  public Schema select(List<String> paths) {
    List<Field> chosen = new ArrayList<>();
    for (String path : paths) {
      add(chosen, resolve(path), 0);
    }
    return new Schema(new Type.Struct(chosen), List.of(), lastId);
  }

  private static void add(List<Field> chosen, List<Field> along, int depth) {
    Field field = along.get(depth);
    int at = -1;
    for (int i = 0; i < chosen.size(); i++) {
      at = chosen.get(i).id() == field.id() ? i : at;
    }
    if (depth == along.size() - 1) {
      if (at >= 0) {
        chosen.set(at, field);
      } else {
        chosen.add(field);
      }
      return;
    }
    List<Field> inner = new ArrayList<>();
    if (at >= 0) {
      inner.addAll(((Type.Struct) chosen.get(at).type()).fields());
    }
    add(inner, along, depth + 1);
    Field narrowed = field.withType(new Type.Struct(inner));
    if (at >= 0) {
      chosen.set(at, narrowed);
    } else {
      chosen.add(narrowed);
    }
  }

  /** Splits a path into names. */
  public static List<String> parsePath(String path) {
    List<String> names = new ArrayList<>();
    StringBuilder name = new StringBuilder();
    boolean quoted = false;
    for (int i = 0; i < path.length(); i++) {
      char c = path.charAt(i);
      if (c == '"') {
        if (quoted && i + 1 < path.length() && path.charAt(i + 1) == '"') {
          name.append(c);
          i++;
        } else {
          quoted = !quoted;
        }
      } else if (c == '.' && !quoted) {
        names.add(name.toString());
        name.setLength(0);
      } else {
        name.append(c);
      }
    }
    if (quoted) {
      throw new InvalidInputException("The column path " + path + " has an open quote.");
    }
    names.add(name.toString());
    return names;
  }

  /** Writes names as a path. */
  public static String path(List<String> names) {
    List<String> parts = new ArrayList<>();
    for (String name : names) {
      boolean plain = name.chars().noneMatch(c -> ".\",()'".indexOf(c) >= 0 || c <= ' ');
      parts.add(plain ? name : '"' + name.replace("\"", "\"\"") + '"');
    }
    return String.join(".", parts);
  }

  /** The path of a field below another one; of a column when the path of that is empty. */
  public static String below(String parent, String name) {
    String own = path(List.of(name));
    return parent.isEmpty() ? own : parent + "." + own;
  }

  private void index(Type type) {
    for (Field field : children(type)) {
      if (byId.put(field.id(), field) != null) {
        throw new InvalidInputException("Two fields have the id " + field.id() + ".");
      }
      index(field.type());
    }
  }

  /** The fields directly inside a type. */
  public static List<Field> children(Type type) {
    if (type instanceof Type.Struct inner) {
      return inner.fields();
    }
    if (type instanceof Type.ListOf list) {
      return List.of(list.element());
    }
    if (type instanceof Type.MapOf map) {
      return List.of(map.key(), map.value());
    }
    return Collections.emptyList();
  }

  private static Type number(Type type, int[] last) {
    if (type instanceof Type.Struct inner) {
      List<Field> outer = new ArrayList<>();
      for (Field field : inner.fields()) {
        outer.add(field.withId(++last[0]));
      }
      outer.replaceAll(field -> field.withType(number(field.type(), last)));
      return new Type.Struct(outer);
    }
    if (type instanceof Type.ListOf list) {
      Field element = list.element().withId(++last[0]);
      return new Type.ListOf(element.withType(number(element.type(), last)));
    }
    if (type instanceof Type.MapOf map) {
      Field key = map.key().withId(++last[0]);
      Field value = map.value().withId(++last[0]);
      return new Type.MapOf(
          key.withType(number(key.type(), last)), value.withType(number(value.type(), last)));
    }
    return type;
  }

  private static void checkNames(Type type, String where, boolean byCase, int depth) {
    Limits.depth(depth, "type of column " + where);
    if (type instanceof Type.Interval) {
      throw InvalidInputException.ofColumn(
          where, "Column " + where + " is " + type + ", which no column can have.");
    }
    if (type instanceof Type.Struct inner) {
      if (inner.fields().isEmpty()) {
        throw InvalidInputException.ofColumn(
            where, "Column " + where + " is a ROW without fields.");
      }
      Map<String, String> seen = new HashMap<>();
      for (Field field : inner.fields()) {
        String same = byCase ? field.name() : field.name().toLowerCase(Locale.ROOT);
        String other = seen.put(same, field.name());
        if (other != null) {
          String in = where.isEmpty() ? "" : " in " + where;
          throw new InvalidInputException(
              other.equals(field.name())
                  ? "Two columns have the name %s%s; names must differ."
                      .formatted(Values.quote(other), in)
                  : "The columns %s and %s%s differ by case only, and many readers do not distinguish them. Choose another name, or allow case-sensitive names."
                      .formatted(Values.quote(other), Values.quote(field.name()), in));
        }
      }
    }
    for (Field field : children(type)) {
      check(field, where.isEmpty() ? field.name() : where + "." + field.name(), byCase, depth);
    }
  }

  private static void check(Field field, String where, boolean byCase, int depth) {
    Limits.text(field.name(), Limits.NAME, "name of a column");
    Limits.text(field.comment(), Limits.COMMENT, "comment of column " + where);
    checkNames(field.type(), where, byCase, depth + 1);
  }

  private static List<String> names(List<Field> fields) {
    return fields.stream().map(Field::name).toList();
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof Schema schema
        && struct.equals(schema.struct)
        && keyIds.equals(schema.keyIds)
        && lastId == schema.lastId;
  }

  @Override
  public int hashCode() {
    return Arrays.asList(struct, keyIds, lastId).hashCode();
  }

  /** The columns as SQL column definitions. */
  @Override
  public String toString() {
    StringBuilder sql = new StringBuilder();
    for (Field column : columns()) {
      sql.append(sql.isEmpty() ? "" : ",\n").append(SqlNames.of(column.name())).append(' ');
      sql.append(column.type()).append(column.required() ? " NOT NULL" : "");
      column.defaultText().ifPresent(value -> sql.append(" DEFAULT ").append(value));
    }
    if (!keyIds.isEmpty()) {
      sql.append(",\nPRIMARY KEY (")
          .append(String.join(", ", key().stream().map(SqlNames::of).toList()))
          .append(')');
    }
    return sql.toString();
  }
}
