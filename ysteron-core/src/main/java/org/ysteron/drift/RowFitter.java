package org.ysteron.drift;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Decimals;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Names;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;

/**
 * Fits a row of named values into a table's columns, at every depth: finds columns by name,
 * converts what fits, and says what the table lacks for it, what is left over, and all that is
 * wrong. For one thread.
 */
public final class RowFitter {
  /** Stands for a value that fits only when the table has grown. */
  private static final Object PENDING = new Object();

  private final Schema schema;
  private final WriteRules rules;
  private final int leftovers;
  private final boolean isGrown;
  private final boolean isPartial;
  private final Map<String, Map<String, Integer>> positions = new HashMap<>();
  private List<String> plannedNames;
  private int[] planned;
  private List<String> wrong;
  private List<Need> needs;

  /**
   * A row as the table takes it.
   *
   * @param values by column; they count only if nothing is needed
   * @param needs what does not fit before the table has grown
   * @param leaves whether something is left over
   * @param needsLeftovers whether the table has no column for that
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
  public record Fitted(
      Object[] values, List<Need> needs, boolean leaves, boolean needsLeftovers) {
    /** Whether the values are those of the table. */
    public boolean fits() {
      return needs.isEmpty() && !needsLeftovers;
    }
  }

  /**
   * A value that the table cannot take yet.
   *
   * @param parent the path of what its column is in; empty for the table itself
   * @param name the name of its column, or of the element, key or value that it is
   * @param floor the type that is to become wider; empty for a new column
   * @param place where it stands among its siblings in the source
   * @param findings what it tells
   * @param why what is wrong as long as the table has not grown
   */
  record Need(
      String parent,
      String name,
      Optional<Type> floor,
      int place,
      Findings findings,
      String why) {}

  /**
   * For rows of a table.
   *
   * @param leftovers the position of the column for what is not known, or -1
   */
  public RowFitter(Schema schema, WriteRules rules, int leftovers) {
    this(schema, rules, leftovers, false, false);
  }

  /**
   * For rows of a table.
   *
   * @param isGrown whether the table has grown by all rows, so that nothing more comes
   * @param isPartial whether rows need not have all columns of the table
   */
  private RowFitter(
      Schema schema, WriteRules rules, int leftovers, boolean isGrown, boolean isPartial) {
    this.schema = schema;
    this.rules = rules;
    this.leftovers = leftovers;
    this.isGrown = isGrown;
    this.isPartial = isPartial;
  }

  /** For rows of a table that has grown by all of them. */
  static RowFitter grown(Schema schema, WriteRules rules, int leftovers) {
    return new RowFitter(schema, rules, leftovers, true, false);
  }

  /** For rows that need not have all columns of the table. */
  static RowFitter partial(Schema schema, WriteRules rules, int leftovers) {
    return new RowFitter(schema, rules, leftovers, false, true);
  }

  /**
   * Fits a row.
   *
   * @param row a {@link Row}, a {@link TextRow}, or the members of a JSON object by name
   * @throws InvalidInputException with every difference
   */
  public Fitted fit(Object row) {
    if (row instanceof TextRow texts) {
      Object[] values = quick(texts);
      if (values != null) {
        return new Fitted(values, List.of(), false, false);
      }
    }
    wrong = new ArrayList<>();
    needs = new ArrayList<>();
    Map<String, Object> left = new LinkedHashMap<>();
    Object[] values = struct(row, schema.struct(), "", left);
    boolean homeless = !left.isEmpty() && leftovers < 0;
    if (!left.isEmpty() && !homeless) {
      setAside(values, left);
    }
    if (!wrong.isEmpty()) {
      throw new InvalidInputException(String.join("; ", wrong));
    }
    return new Fitted(values, needs, !left.isEmpty(), homeless);
  }

  /** The values of a row that has nothing but what the table takes, as most have; else null. */
  private Object[] quick(TextRow row) {
    if (plannedNames != row.names()) {
      plan(row.names());
    }
    if (planned == null) {
      return null;
    }
    Object[] values = new Object[planned.length];
    for (int c = 0; c < values.length; c++) {
      Field field = schema.columns().get(c);
      String text = planned[c] < 0 ? null : row.values()[planned[c]];
      if (text != null && !isNull(text, field.type())) {
        if (field.type().isNested() || field.type() == Types.JSON) {
          return null;
        }
        try {
          values[c] = parsed(text, field.type());
        } catch (InvalidInputException e) {
          return null; // what is wrong is told with all the rest
        }
      }
      if (planned[c] < 0 && isPartial) {
        continue;
      }
      if (values[c] == null && (planned[c] < 0 || takesDefault(field))) {
        values[c] = field.writeDefault().orElse(null);
      }
      if (values[c] == null && field.required()) {
        return null;
      }
    }
    return values;
  }

  /** Where the columns are in rows of such names, if all names are columns. */
  private void plan(List<String> names) {
    plannedNames = names;
    planned = null;
    Map<String, Integer> known = known(schema.struct(), "");
    int[] plan = new int[schema.columns().size()];
    java.util.Arrays.fill(plan, -1);
    for (int i = 0; i < names.size(); i++) {
      Integer at = known.get(fold(names.get(i)));
      if (at == null || plan[at] >= 0) {
        return;
      }
      plan[at] = i;
    }
    planned = plan;
  }

  private static boolean isNull(String text, Type type) {
    return text.isEmpty() && !(type instanceof Type.Text) && type != Types.BINARY;
  }

  private Object parsed(String text, Type type) {
    if (isWidenedDate(text, type)) {
      return ((LocalDate) ValueText.parse(text, Types.DATE)).atStartOfDay();
    }
    Object value = ValueText.parse(text, type);
    if (rules.drift().grows() && (type == Types.DOUBLE || type == Types.REAL)) {
      exact(text, type);
    }
    return value;
  }

  /** Whether a text is a date where a column of dates may have become one of timestamps. */
  private boolean isWidenedDate(String text, Type type) {
    return type == Types.TIMESTAMP
        && rules.drift().grows()
        && TextForm.of(text).filter(form -> form == TextForm.DATE).isPresent();
  }

  private static void exact(String text, Type type) {
    if (ValueText.isNumber(text) && !Exactness.isHeld(Decimals.parse(text), type)) {
      throw inexact(text, type);
    }
  }

  private static InvalidInputException inexact(String number, Type type) {
    return new InvalidInputException(
        Values.quote(number) + " has more digits than " + type + " holds");
  }

  private boolean takesDefault(Field field) {
    return rules.drift() != Drift.STRICT && field.required();
  }

  private void setAside(Object[] values, Map<String, Object> left) {
    Map<String, Object> all = new LinkedHashMap<>();
    if (values[leftovers] instanceof String given && Json.parse(given) instanceof Map<?, ?> own) {
      own.forEach((name, value) -> all.put((String) name, value));
    }
    all.putAll(left);
    values[leftovers] = Json.write(all);
  }

  /** A named value as it came. */
  private record Member(String name, int place, Object value, Optional<Type> declared) {}

  private static List<Member> members(Object container) {
    List<Member> members = new ArrayList<>();
    if (container instanceof Row row) {
      for (int i = 0; i < row.fields().size(); i++) {
        Field field = row.fields().get(i);
        members.add(new Member(field.name(), i, row.get(i), Optional.of(field.type())));
      }
    } else if (container instanceof TextRow row) {
      for (int i = 0; i < row.names().size(); i++) {
        members.add(new Member(row.names().get(i), i, row.value(i), Optional.empty()));
      }
    } else {
      ((Map<?, ?>) container)
          .forEach(
              (name, value) ->
                  members.add(
                      new Member((String) name, members.size(), value, Optional.empty())));
    }
    return members;
  }

  private String fold(String name) {
    return Findings.fold(name, rules.anyCase());
  }

  private Object[] struct(Object given, Type.Struct type, String path, Map<String, Object> left) {
    Map<String, Integer> known = positions.computeIfAbsent(path, p -> known(type, p));
    Object[] values = new Object[type.fields().size()];
    String[] from = new String[values.length];
    Map<String, String> strangers = new HashMap<>();
    for (Member member : members(given)) {
      String folded = fold(member.name);
      Integer at = known.get(folded);
      if (at == null) {
        String same = strangers.put(folded, member.name);
        if (same != null) {
          wrong.add(
              "%s and %s are one column, if their case does not count"
                  .formatted(same, member.name));
        }
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
      Object rest = field(member, type.fields().get(at), path, values, at);
      if (rest != null) {
        left.put(member.name, rest);
      }
    }
    for (int i = 0; i < values.length; i++) {
      Field field = type.fields().get(i);
      boolean absent = from[i] == null;
      if (absent && isPartial && path.isEmpty()) {
        continue;
      }
      if (values[i] == null && (absent || takesDefault(field))) {
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
    if (!rules.drift().grows() && !rules.drift().setsAside()) {
      List<String> names = type.fields().stream().map(Field::name).toList();
      List<String> near = Names.near(member.name, names);
      String meant = near.isEmpty() ? "" : " (did you mean " + String.join(" or ", near) + "?)";
      wrong.add("there is no column " + Names.shown(full) + meant);
      return;
    }
    if (rules.drift().grows() && !isGrown) {
      // Also what tells nothing yet must wait: another row may tell what it is.
      Findings findings = findings(member.value, member.declared, full);
      if (member.value != null || !findings.isNothing()) {
        needs.add(new Need(path, member.name, Optional.empty(), member.place, findings, ""));
      }
      return;
    }
    boolean tells =
        rules.drift() == Drift.SET_ASIDE
            ? member.value != null
            : !findings(member.value, Optional.empty(), full).isNothing();
    if (tells) {
      left.put(member.name, json(member.value, member.declared));
    }
  }

  private Findings findings(Object value, Optional<Type> declared, String path) {
    try {
      if (declared.isPresent()) {
        if (value != null) {
          Values.accept(value, declared.get());
        }
        return Findings.declared(declared.get());
      }
      return Findings.of(value, rules.anyCase());
    } catch (InvalidInputException e) {
      wrong.add("column %s cannot be added: %s".formatted(Names.shown(path), e.getMessage()));
      return Findings.NOTHING;
    }
  }

  private static Object json(Object value, Optional<Type> declared) {
    if (declared.isPresent()) {
      return Json.toJson(value, declared.get());
    }
    return value instanceof FieldText text ? text.json() : value;
  }

  /** Fits one value; returns what is left over of it, or null. */
  private Object field(Member member, Field field, String parent, Object[] values, int at) {
    Object value = member.value;
    if (value == null) {
      return null;
    }
    Type type = field.type();
    String path = Schema.below(parent, field.name());
    if (value instanceof FieldText text && type.isNested()) {
      return nestedText(member, text.text(), field, parent, values, at);
    }
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
    return single(member, field, parent, values, at);
  }

  /** JSON that stands in a file of texts. */
  private Object nestedText(
      Member member, String text, Field field, String parent, Object[] values, int at) {
    Object parsed;
    try {
      parsed = text.isEmpty() ? null : Json.parse(text);
    } catch (InvalidInputException e) {
      return single(member, field, parent, values, at); // which says so
    }
    Member inside = new Member(member.name, member.place, parsed, Optional.empty());
    return field(inside, field, parent, values, at);
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
      Member inner = new Member("element", 0, element, declared);
      Object rest = field(inner, list.element(), path, one, 0);
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
          Object[] one = new Object[2];
          Member inner = new Member(String.valueOf(key), 0, value, declared);
          Object rest = field(inner, map.value(), path, one, 0);
          required(one[0], map.value(), path);
          key(key, map.key(), path, one);
          fitted.put(one[1], one[0]);
          if (rest != null) {
            left.put(String.valueOf(key), rest);
          }
        });
    values[at] = fitted;
    return left.isEmpty() ? null : left;
  }

  private void key(Object key, Field field, String path, Object[] one) {
    try {
      one[1] = converted(key, Optional.empty(), field.type());
    } catch (InvalidInputException e) {
      wrong.add(misfit(Schema.below(path, "key"), field.type(), e));
    }
  }

  private void required(Object value, Field field, String path) {
    if (value == null && field.required()) {
      wrong.add("an element of column " + path + " is null, but NOT NULL");
    }
  }

  private static String misfit(String path, Type type, InvalidInputException e) {
    return "column %s (%s): %s".formatted(path, type, e.getMessage());
  }

  private Object single(Member member, Field field, String parent, Object[] values, int at) {
    try {
      values[at] = converted(member.value, member.declared, field.type());
      return null;
    } catch (InvalidInputException e) {
      String why = misfit(Schema.below(parent, field.name()), field.type(), e);
      if (rules.drift().grows() && !isGrown) {
        int before = wrong.size();
        Findings findings = findings(member.value, member.declared, why);
        if (wrong.size() == before) {
          Optional<Type> floor = Optional.of(field.type());
          needs.add(new Need(parent, field.name(), floor, member.place, findings, why));
          values[at] = PENDING;
        }
        return null;
      }
      if (rules.drift() == Drift.GROW_OR_SET_ASIDE) {
        return json(member.value, member.declared);
      }
      wrong.add(why);
      return null;
    }
  }

  /** A value as a type has it. */
  private Object converted(Object value, Optional<Type> declared, Type type) {
    if (declared.isPresent()) {
      Type given = declared.get();
      boolean widens = !given.isNested() && !type.isNested() && Widening.isExact(given, type);
      return Values.accept(widens ? Widening.value(value, given, type) : value, type);
    }
    if (value instanceof FieldText field) {
      return fieldText(field, type);
    }
    boolean grows = rules.drift().grows();
    boolean asText = grows && type instanceof Type.Text;
    if (asText && (value instanceof Number || value instanceof Boolean)) {
      return Values.accept(value.toString(), type);
    }
    if (value instanceof String text && isWidenedDate(text, type)) {
      return parsed(text, type);
    }
    Object converted = Json.fromJson(value, type);
    if (grows && (type == Types.DOUBLE || type == Types.REAL)) {
      if (value instanceof BigDecimal number && !Exactness.isHeld(number, type)) {
        throw inexact(number.toString(), type);
      }
      if (!(value instanceof Double) && !(value instanceof BigDecimal)) {
        exact(value.toString(), type);
      }
    }
    return converted;
  }

  private Object fieldText(FieldText field, Type type) {
    String text = field.text();
    if (isNull(text, type)) {
      return null;
    }
    if (type.isNested() || type == Types.JSON) {
      return Json.fromJson(Json.parse(text), type);
    }
    Object json = rules.drift().grows() && type.isNumber() ? field.json() : text;
    return json instanceof Number ? converted(json, Optional.empty(), type) : parsed(text, type);
  }
}
