package org.ysteron.internal.json;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;

/**
 * Conditions as JSON, in which columns are named by their ids. A column that is compared with
 * literals or with another column has a short form, which is also that of before there were
 * expressions.
 */
public final class ConditionJson {
  private static final String DISTINCT = "distinct from";

  private ConditionJson() {}

  /** A condition as a JSON object. */
  public static Map<String, Object> toJson(Condition condition, Schema schema) {
    return condition.match(new Writer(schema));
  }

  private record Writer(Schema schema) implements Condition.Cases<Map<String, Object>> {
    private int id(Expression column) {
      return schema.find(((Column) column).path()).id();
    }

    private Map<String, Object> expression(Expression of) {
      return ExpressionJson.toJson(of, schema);
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
      return json("and", all(test.conditions()));
    }

    @Override
    public Map<String, Object> or(Condition.Or test) {
      return json("or", all(test.conditions()));
    }

    @Override
    public Map<String, Object> isNull(Condition.IsNull test) {
      return ShortForms.isColumn(test.value())
          ? json("null", id(test.value()))
          : json("null", expression(test.value()));
    }

    @Override
    public Map<String, Object> compare(Condition.Compare test) {
      if (!ShortForms.isShort(test)) {
        return sides(test.left(), test.comparison().sql(), test.right());
      }
      Map<String, Object> json = json("column", id(test.left()));
      json.put("is", test.comparison().sql());
      if (test.right() instanceof Literal literal) {
        json.put("value", literal(literal.value()));
      } else {
        json.put("other", id(test.right()));
      }
      return json;
    }

    @Override
    public Map<String, Object> distinct(Condition.Distinct test) {
      return sides(test.left(), DISTINCT, test.right());
    }

    private Map<String, Object> sides(Expression left, String is, Expression right) {
      Map<String, Object> json = json("left", expression(left));
      json.put("is", is);
      json.put("right", expression(right));
      return json;
    }

    @Override
    public Map<String, Object> in(Condition.In test) {
      if (!ShortForms.isShort(test)) {
        Map<String, Object> json = json("left", expression(test.value()));
        json.put("in", new ArrayList<>(test.options().stream().map(this::expression).toList()));
        return json;
      }
      Map<String, Object> json = json("column", id(test.value()));
      List<Object> literals = new ArrayList<>(test.options().size());
      test.options().forEach(option -> literals.add(literal(((Literal) option).value())));
      json.put("in", literals);
      return json;
    }

    @Override
    public Map<String, Object> like(Condition.Like test) {
      Optional<String> prefix = test.onlyPrefix();
      if (ShortForms.isColumn(test.value()) && prefix.isPresent()) {
        Map<String, Object> json = json("column", id(test.value()));
        json.put("starts with", prefix.get());
        return json;
      }
      Map<String, Object> json = json("like", test.pattern());
      if (test.escape().isPresent()) {
        json.put("escape", Character.toString(test.escape().getAsInt()));
      }
      json.put("left", expression(test.value()));
      return json;
    }

    @Override
    public Map<String, Object> holds(Condition.Holds test) {
      return json("true", expression(test.value()));
    }

    @Override
    public Map<String, Object> unknown(Condition.Unknown test) {
      Map<String, Object> json = new LinkedHashMap<>();
      test.json().forEach((member, value) -> json.put((String) member, value));
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
      if (condition.logicalDepth(Limits.DEPTH) > Limits.DEPTH
          || condition.depth(Limits.EXPRESSION_DEPTH) > Limits.EXPRESSION_DEPTH) {
        throw new DamagedException("A stored condition is nested too deep.");
      }
      return condition;
    } catch (ClassCastException
        | NullPointerException
        | IllegalArgumentException
        | InvalidInputException e) {
      throw new DamagedException("A stored condition cannot be read: " + json, e);
    }
  }

  static Condition read(Map<?, ?> json, Schema schema) {
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
      Object of = json.get("null");
      return new Condition.IsNull(
          of instanceof Integer id
              ? new Column(schema.pathOf(id))
              : ExpressionJson.fromJson(of, schema));
    }
    if (json.containsKey("true")) {
      return new Condition.Holds(ExpressionJson.fromJson(json.get("true"), schema));
    }
    if (json.containsKey("left")) {
      return sides(json, schema);
    }
    Column column = new Column(schema.pathOf((Integer) json.get("column")));
    if (json.containsKey("in")) {
      List<Object> literals = new ArrayList<>();
      ((List<?>) json.get("in")).forEach(value -> literals.add(number(value)));
      return column.in(literals);
    }
    if (json.containsKey("starts with")) {
      return column.startsWith((String) json.get("starts with"));
    }
    Condition.Comparison comparison = Condition.Comparison.of((String) json.get("is"));
    return json.containsKey("other")
        ? new Condition.Compare(
            column, comparison, new Column(schema.pathOf((Integer) json.get("other"))))
        : new Condition.Compare(column, comparison, new Literal(number(json.get("value"))));
  }

  private static Condition sides(Map<?, ?> json, Schema schema) {
    Expression left = ExpressionJson.fromJson(json.get("left"), schema);
    if (json.containsKey("like")) {
      String escape = (String) json.get("escape");
      return new Condition.Like(
          left,
          (String) json.get("like"),
          escape == null ? OptionalInt.empty() : OptionalInt.of(escape.codePointAt(0)));
    }
    if (json.containsKey("in")) {
      List<Expression> options = new ArrayList<>();
      ((List<?>) json.get("in"))
          .forEach(part -> options.add(ExpressionJson.fromJson(part, schema)));
      return new Condition.In(left, options);
    }
    Expression right = ExpressionJson.fromJson(json.get("right"), schema);
    String is = (String) json.get("is");
    return is.equals(DISTINCT)
        ? new Condition.Distinct(left, right)
        : new Condition.Compare(left, Condition.Comparison.of(is), right);
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
