package org.ysteron.internal.drift;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.NearNames;
import org.ysteron.option.Drift;
import org.ysteron.option.WriteRules;

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
  private final ValueFitter fitter;
  private final int leftovers;
  private final boolean isGrown;
  private final boolean isPartial;
  private final Map<String, Map<String, Integer>> positions = new HashMap<>();
  private List<String> plannedNames;
  private int[] planned;
  private final List<Integer> strangers = new ArrayList<>();
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
  public record Fitted(Object[] values, List<Need> needs, boolean leaves, boolean needsLeftovers) {
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
   * @param value the value as it came
   * @param findings what it tells
   * @param why what is wrong as long as the table has not grown
   */
  record Need(
      String parent,
      String name,
      Optional<Type> floor,
      int place,
      Object value,
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
    this.fitter = new ValueFitter(rules);
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
      Fitted fitted = quick(texts);
      if (fitted != null) {
        return fitted;
      }
    }
    wrong = new ArrayList<>();
    needs = new ArrayList<>();
    if (row instanceof WaitingRow part) {
      return part(part);
    }
    Map<String, Object> left = new LinkedHashMap<>();
    return ended(struct(row, schema.struct(), "", left), left);
  }

  private Fitted ended(Object[] values, Map<String, Object> left) {
    boolean homeless = !left.isEmpty() && leftovers < 0;
    if (!left.isEmpty() && !homeless) {
      setAside(values, left);
    }
    if (!wrong.isEmpty()) {
      throw new InvalidInputException(String.join("; ", wrong));
    }
    return new Fitted(values, needs, !left.isEmpty(), homeless);
  }

  /**
   * What is to be kept of a row until the table has grown: what fits as it is already, and the rest
   * as it came; or all as it came, when something inside of a column does not fit.
   */
  Object kept(Object row, Fitted fitted) {
    if (row instanceof Row) {
      return row;
    }
    Map<String, Object> rest = new LinkedHashMap<>();
    for (Need need : fitted.needs) {
      if (!need.parent.isEmpty()) {
        return row;
      }
      rest.put(need.name, need.value);
    }
    Object[] values = fitted.values.clone();
    for (int c = 0; c < values.length; c++) {
      values[c] = values[c] == PENDING ? null : values[c];
    }
    return new WaitingRow(Row.of(schema.struct(), values), rest);
  }

  /** A row of which some fitted the table before it grew; its columns are the first ones still. */
  private Fitted part(WaitingRow row) {
    Object[] values = new Object[schema.columns().size()];
    for (int c = 0; c < row.fitted().fields().size(); c++) {
      Object value = row.fitted().get(c);
      Type before = row.fitted().fields().get(c).type();
      values[c] = Widening.value(value, before, schema.columns().get(c).type());
    }
    Map<String, Object> left = new LinkedHashMap<>();
    Map<String, Integer> known = positions.computeIfAbsent("", p -> known(schema.struct(), p));
    for (Member member : members(row.rest())) {
      Integer at = known.get(fold(member.name));
      if (at == null) {
        unknown(member, schema.struct(), "", left);
        continue;
      }
      Object rest = field(member, schema.columns().get(at), "", values, at);
      if (rest != null) {
        left.put(member.name, rest);
      }
    }
    for (int c = 0; c < values.length; c++) {
      required(values, c, schema.columns().get(c), "", false);
    }
    return ended(values, left);
  }

  /** Fits a row in which all that the table has fits, as in most; else null. */
  private Fitted quick(TextRow row) {
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
      if (text != null && !ValueFitter.isNull(text, field.type())) {
        if (field.type().isNested() || field.type() == Types.JSON) {
          return null;
        }
        try {
          values[c] = fitter.parsed(text, field.type());
          if (maySuffer(values[c], field.type())) {
            return null;
          }
        } catch (InvalidInputException e) {
          return null; // what is wrong is told with all the rest
        }
      }
      if (planned[c] < 0 && isPartial) {
        continue;
      }
      if (values[c] == null && (planned[c] < 0 || takesDefault(field))) {
        values[c] = field.standard();
      }
      if (values[c] == null && field.required()) {
        return null;
      }
    }
    return new Fitted(values, strangers(row), false, false);
  }

  private List<Need> strangers(TextRow row) {
    List<Need> found = new ArrayList<>(strangers.size());
    for (int at : strangers) {
      FieldText value = FieldText.of(row, at);
      if (value != null) {
        Findings told = Findings.of(value, rules);
        found.add(new Need("", row.names().get(at), Optional.empty(), at, value, told, ""));
      }
    }
    return found;
  }

  /** Where the columns are in rows of such names, if the others may become columns. */
  private void plan(List<String> names) {
    plannedNames = names;
    planned = null;
    strangers.clear();
    Map<String, Integer> known = known(schema.struct(), "");
    Set<String> folded = new HashSet<>();
    int[] plan = new int[schema.columns().size()];
    Arrays.fill(plan, -1);
    for (int i = 0; i < names.size(); i++) {
      Integer at = known.get(fold(names.get(i)));
      boolean mayGrow = at == null && rules.grows() && !isGrown;
      if (!folded.add(fold(names.get(i))) || (at == null && !mayGrow)) {
        return;
      }
      if (at == null) {
        strangers.add(i);
      } else {
        plan[at] = i;
      }
    }
    planned = plan;
  }

  private boolean takesDefault(Field field) {
    return rules.drift() != Drift.STRICT && field.required();
  }

  /**
   * Puts what is set aside beside what the row itself has for that column: its members, if none has
   * a name that is set aside, else the whole under the name of the column.
   */
  private void setAside(Object[] values, Map<String, Object> left) {
    Map<String, Object> all = new LinkedHashMap<>();
    if (values[leftovers] instanceof String given) {
      Object own = Json.parse(given);
      if (own instanceof Map<?, ?> members
          && Collections.disjoint(members.keySet(), left.keySet())) {
        members.forEach((name, value) -> all.put((String) name, value));
      } else {
        all.put(schema.columns().get(leftovers).name(), own);
      }
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
        members.add(new Member(row.names().get(i), i, FieldText.of(row, i), Optional.empty()));
      }
    } else {
      ((Map<?, ?>) container)
          .forEach(
              (name, value) ->
                  members.add(new Member((String) name, members.size(), value, Optional.empty())));
    }
    return members;
  }

  private String fold(String name) {
    return Findings.fold(name, rules);
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
              "%s and %s are the same column when case is ignored".formatted(same, member.name));
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
      required(values, i, field, path, absent);
    }
    return values;
  }

  /** Gives a field its default where it takes it, and says when it is null and must not be. */
  private void required(Object[] values, int i, Field field, String path, boolean absent) {
    if (values[i] == null && (absent || takesDefault(field))) {
      values[i] = field.standard();
    }
    if (values[i] == null && field.required()) {
      wrong.add(
          absent
              ? "column %s is missing, but it is NOT NULL and has no default"
                  .formatted(Schema.below(path, field.name()))
              : "column %s is null, but NOT NULL".formatted(Schema.below(path, field.name())));
    }
  }

  private Map<String, Integer> known(Type.Struct type, String path) {
    Map<String, Integer> known = new LinkedHashMap<>();
    for (int i = 0; i < type.fields().size(); i++) {
      String name = type.fields().get(i).name();
      Integer other = known.put(fold(name), i);
      if (other != null) {
        throw new InvalidInputException(
            "columns %s and %s differ by case only, so names are ambiguous when case is ignored"
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
      List<String> near = NearNames.near(member.name, names);
      String meant = near.isEmpty() ? "" : " (did you mean " + String.join(" or ", near) + "?)";
      wrong.add("there is no column " + NearNames.shown(full) + meant);
      return;
    }
    if (rules.drift().grows() && !isGrown) {
      // Also what tells nothing yet must wait: another row may tell what it is.
      Findings findings = findings(member.value, member.declared, full);
      if (member.value != null || !findings.isNothing()) {
        needs.add(
            new Need(
                path, member.name, Optional.empty(), member.place, member.value, findings, ""));
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
      return Findings.of(value, rules);
    } catch (InvalidInputException e) {
      wrong.add("column %s cannot be added: %s".formatted(NearNames.shown(path), e.getMessage()));
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
      one[1] = fitter.converted(key, Optional.empty(), field.type());
    } catch (InvalidInputException e) {
      wrong.add(misfit(Schema.below(path, "key"), field.type(), e));
    }
  }

  private void required(Object value, Field field, String path) {
    if (value == null && field.required()) {
      wrong.add("an element of column " + path + " is null, but NOT NULL");
    }
  }

  /**
   * Whether a number that fits would become another one if its column grew by a later row: 0.1 as
   * REAL is 0.10000000149011612 as DOUBLE PRECISION. Such a row waits until that is known.
   */
  private boolean maySuffer(Object value, Type type) {
    return type == Types.REAL
        && rules.drift().grows()
        && !isGrown
        && value instanceof Float number
        && Float.isFinite(number)
        && Double.parseDouble(number.toString()) != number.doubleValue();
  }

  private static String misfit(String path, Type type, InvalidInputException e) {
    return "column %s (%s): %s".formatted(path, type, e.getMessage());
  }

  private Object single(Member member, Field field, String parent, Object[] values, int at) {
    try {
      Object value = fitter.converted(member.value, member.declared, field.type());
      if (member.declared.isPresent()
          || member.value instanceof Float
          || !maySuffer(value, field.type())) {
        values[at] = value;
        return null;
      }
      throw new InvalidInputException("a wider type would change the number");
    } catch (InvalidInputException e) {
      String why = misfit(Schema.below(parent, field.name()), field.type(), e);
      if (rules.drift().grows() && !isGrown) {
        int before = wrong.size();
        Findings findings = findings(member.value, member.declared, why);
        if (wrong.size() == before) {
          Optional<Type> floor = Optional.of(field.type());
          needs.add(
              new Need(parent, field.name(), floor, member.place, member.value, findings, why));
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
}
