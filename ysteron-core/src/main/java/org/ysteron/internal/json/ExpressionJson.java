package org.ysteron.internal.json;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.Period;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Call;
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Element;
import org.ysteron.expr.Expression;
import org.ysteron.expr.FieldOf;
import org.ysteron.expr.Literal;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;

/** Expressions as JSON, in which columns are named by their ids and literals have their types. */
public final class ExpressionJson {
  private static final String OF = "of";
  private static final String CASE = "case";

  private ExpressionJson() {}

  /** An expression as a JSON object. */
  public static Map<String, Object> toJson(Expression expression, Schema schema) {
    Map<String, Object> json = new LinkedHashMap<>();
    if (expression instanceof Column column) {
      if (column.input() == Column.Input.SOURCE) {
        json.put("source", column.path());
      } else {
        json.put("column", schema.find(column.path()).id());
      }
    } else if (expression instanceof Literal literal) {
      literal(literal, json);
    } else if (expression instanceof Call call) {
      json.put("call", word(call.operator()));
      json.put(OF, all(call.arguments(), schema));
    } else if (expression instanceof Cast cast) {
      json.put("cast", toJson(cast.value(), schema));
      json.put("to", cast.type().toString());
    } else if (expression instanceof Case choice) {
      List<Object> whens = new ArrayList<>();
      for (int i = 0; i < choice.values().size(); i++) {
        Map<String, Object> when = new LinkedHashMap<>();
        when.put("when", ConditionJson.toJson(choice.conditions().get(i), schema));
        when.put("then", toJson(choice.values().get(i), schema));
        whens.add(when);
      }
      json.put(CASE, whens);
      json.put("else", toJson(choice.otherwise(), schema));
    } else if (expression instanceof TimePart part) {
      json.put(word(part.kind()), word(part.unit()));
      json.put(OF, toJson(part.of(), schema));
    } else if (expression instanceof Element element) {
      json.put("element", toJson(element.key(), schema));
      json.put(OF, toJson(element.of(), schema));
    } else if (expression instanceof FieldOf field) {
      json.put("field", field.name());
      json.put(OF, toJson(field.of(), schema));
    } else {
      json.put("condition", ConditionJson.toJson((Condition) expression, schema));
    }
    return json;
  }

  private static String word(Enum<?> name) {
    return name.name().toLowerCase(Locale.ROOT).replace('_', ' ');
  }

  private static <E extends Enum<E>> E named(Class<E> names, Object word) {
    try {
      return Enum.valueOf(names, ((String) word).toUpperCase(Locale.ROOT).replace(' ', '_'));
    } catch (IllegalArgumentException e) {
      throw new DamagedException("A stored expression has an unknown word: " + word + ".", e);
    }
  }

  private static List<Object> all(List<Expression> expressions, Schema schema) {
    return new ArrayList<>(expressions.stream().map(part -> toJson(part, schema)).toList());
  }

  private static void literal(Literal literal, Map<String, Object> json) {
    Object value = literal.value();
    if (value == null) {
      json.put("value", null);
      return;
    }
    Type type =
        literal
            .type()
            .orElseThrow(
                () ->
                    new InvalidInputException(
                        Values.show(value) + " cannot be stored as a literal."));
    json.put(
        "value",
        type instanceof Type.Interval
            ? (Object) Values.toLong(value, type)
            : Json.toJson(Values.accept(value, type), type));
    json.put("type", type.toString());
  }

  /** Reads what {@link #toJson} wrote. */
  public static Expression fromJson(Object given, Schema schema) {
    Map<?, ?> json = (Map<?, ?>) given;
    if (json.containsKey("value")) {
      return literal(json);
    }
    if (json.containsKey("column")) {
      return new Column(schema.pathOf((Integer) json.get("column")));
    }
    if (json.containsKey("source")) {
      return Column.ofSource((String) json.get("source"));
    }
    if (json.containsKey("call")) {
      List<Expression> arguments = new ArrayList<>();
      ((List<?>) json.get(OF)).forEach(part -> arguments.add(fromJson(part, schema)));
      return new Call(named(Operator.class, json.get("call")), arguments);
    }
    if (json.containsKey("cast")) {
      return new Cast(fromJson(json.get("cast"), schema), Types.parse((String) json.get("to")));
    }
    if (json.containsKey(CASE)) {
      return choice(json, schema);
    }
    if (json.containsKey("element")) {
      return new Element(fromJson(json.get(OF), schema), fromJson(json.get("element"), schema));
    }
    if (json.containsKey("field")) {
      return new FieldOf(fromJson(json.get(OF), schema), (String) json.get("field"));
    }
    if (json.containsKey("condition")) {
      return ConditionJson.read((Map<?, ?>) json.get("condition"), schema);
    }
    for (TimePart.Kind kind : TimePart.Kind.values()) {
      if (json.containsKey(word(kind))) {
        return new TimePart(
            kind, named(TimeUnit.class, json.get(word(kind))), fromJson(json.get(OF), schema));
      }
    }
    throw new DamagedException("A stored expression has an unknown form: " + json.keySet() + ".");
  }

  private static Case choice(Map<?, ?> json, Schema schema) {
    List<Condition> conditions = new ArrayList<>();
    List<Expression> values = new ArrayList<>();
    for (Object each : (List<?>) json.get(CASE)) {
      Map<?, ?> when = (Map<?, ?>) each;
      conditions.add(ConditionJson.read((Map<?, ?>) when.get("when"), schema));
      values.add(fromJson(when.get("then"), schema));
    }
    return new Case(conditions, values, fromJson(json.get("else"), schema));
  }

  private static Literal literal(Map<?, ?> json) {
    Object value = json.get("value");
    if (value == null) {
      return new Literal(null);
    }
    String type = (String) json.get("type");
    if (type.equals(Type.Interval.MONTHS.toString())) {
      return new Literal(Period.ofMonths(Math.toIntExact(((Number) value).longValue())));
    }
    if (type.equals(Type.Interval.MICROSECONDS.toString())) {
      return new Literal(
          Duration.of(((Number) value).longValue(), java.time.temporal.ChronoUnit.MICROS));
    }
    Type known = Types.parse(type);
    Object read = Json.fromJson(value, known);
    return new Literal(
        known instanceof Type.Decimal && read instanceof BigDecimal number ? number : read);
  }
}
