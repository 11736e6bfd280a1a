package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;

/** Conditions as JSON, in which columns are named by their ids. */
public final class ConditionJson {
  private ConditionJson() {}

  /** A condition as a JSON object. */
  public static Map<String, Object> toJson(Condition condition, Schema schema) {
    return condition.match(new Writer(schema));
  }

  private record Writer(Schema schema) implements Condition.Cases<Map<String, Object>> {
    private int id(String path) {
      return schema.find(path).id();
    }

    private List<Map<String, Object>> all(List<Condition> parts) {
      return parts.stream().map(part -> part.match(this)).toList();
    }

    @Override
    public Map<String, Object> not(Condition.Not test) {
      return json("not", test.part().match(this));
    }

    @Override
    public Map<String, Object> and(Condition.And test) {
      return json("and", all(test.parts()));
    }

    @Override
    public Map<String, Object> or(Condition.Or test) {
      return json("or", all(test.parts()));
    }

    @Override
    public Map<String, Object> isNull(Condition.IsNull test) {
      return json("null", id(test.column()));
    }

    @Override
    public Map<String, Object> compare(Condition.Compare test) {
      Map<String, Object> json = json("column", id(test.column()));
      json.put("is", test.comparison().sql());
      json.put("value", literal(test.literal()));
      return json;
    }

    @Override
    public Map<String, Object> comparePair(Condition.ComparePair test) {
      Map<String, Object> json = json("column", id(test.left()));
      json.put("is", test.comparison().sql());
      json.put("other", id(test.right()));
      return json;
    }

    @Override
    public Map<String, Object> in(Condition.In test) {
      Map<String, Object> json = json("column", id(test.column()));
      json.put(
          "in", new ArrayList<>(test.literals().stream().map(ConditionJson::literal).toList()));
      return json;
    }

    @Override
    public Map<String, Object> startsWith(Condition.StartsWith test) {
      Map<String, Object> json = json("column", id(test.column()));
      json.put("starts with", test.prefix());
      return json;
    }

    private static Map<String, Object> json(String member, Object value) {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put(member, value);
      return json;
    }
  }

  /** Numbers, booleans and text stay; what else there is becomes its text, which columns parse. */
  private static Object literal(Object value) {
    if (value == null || value instanceof Boolean || value instanceof String) {
      return value;
    }
    if (value instanceof Double || value instanceof Float) {
      double number = ((Number) value).doubleValue();
      return Double.isFinite(number) ? (Object) number : value.toString();
    }
    if (value instanceof byte[] bytes) {
      return java.util.HexFormat.of().formatHex(bytes);
    }
    return value instanceof Number ? value : value.toString();
  }

  /** Reads what {@link #toJson} wrote. */
  public static Condition fromJson(Map<?, ?> json, Schema schema) {
    try {
      Condition condition = read(json, schema);
      if (condition.depth(Limits.DEPTH) > Limits.DEPTH) {
        throw new DamagedException("A stored condition is nested too deep.");
      }
      return condition;
    } catch (ClassCastException | NullPointerException e) {
      throw new DamagedException("A stored condition cannot be read: " + json, e);
    }
  }

  private static Condition read(Map<?, ?> json, Schema schema) {
    if (json.containsKey("not")) {
      return new Condition.Not(read((Map<?, ?>) json.get("not"), schema));
    }
    if (json.containsKey("and")) {
      return new Condition.And(parts(json.get("and"), schema));
    }
    if (json.containsKey("or")) {
      return new Condition.Or(parts(json.get("or"), schema));
    }
    if (json.containsKey("null")) {
      return new Condition.IsNull(schema.pathOf((Integer) json.get("null")));
    }
    String column = schema.pathOf((Integer) json.get("column"));
    if (json.containsKey("in")) {
      List<Object> literals = new ArrayList<>();
      ((List<?>) json.get("in")).forEach(value -> literals.add(number(value)));
      return new Condition.In(column, literals);
    }
    if (json.containsKey("starts with")) {
      return new Condition.StartsWith(column, (String) json.get("starts with"));
    }
    Condition.Comparison comparison = Condition.Comparison.of((String) json.get("is"));
    return json.containsKey("other")
        ? new Condition.ComparePair(column, comparison, schema.pathOf((Integer) json.get("other")))
        : new Condition.Compare(column, comparison, number(json.get("value")));
  }

  private static List<Condition> parts(Object json, Schema schema) {
    List<Condition> parts = new ArrayList<>();
    ((List<?>) json).forEach(part -> parts.add(read((Map<?, ?>) part, schema)));
    return parts;
  }

  private static Object number(Object json) {
    return json instanceof Number number ? Decimals.of(number) : json;
  }
}
