package org.ysteron.expr;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.ysteron.data.Decimals;
import org.ysteron.data.Limits;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;

/** Conditions under other names, and as JSON, in which columns are named by their ids. */
public final class Conditions {
  private Conditions() {}

  /** The paths of all columns in a condition. */
  public static Set<String> columns(Condition condition) {
    Set<String> paths = new LinkedHashSet<>();
    renamed(
        condition,
        path -> {
          paths.add(path);
          return path;
        });
    return paths;
  }

  /** A condition with other paths for its columns. */
  public static Condition renamed(Condition condition, UnaryOperator<String> names) {
    if (condition instanceof Condition.Not not) {
      return new Condition.Not(renamed(not.part(), names));
    }
    if (condition instanceof Condition.And and) {
      return new Condition.And(and.parts().stream().map(part -> renamed(part, names)).toList());
    }
    if (condition instanceof Condition.Or or) {
      return new Condition.Or(or.parts().stream().map(part -> renamed(part, names)).toList());
    }
    if (condition instanceof Condition.IsNull test) {
      return new Condition.IsNull(names.apply(test.column()));
    }
    if (condition instanceof Condition.Compare test) {
      return new Condition.Compare(names.apply(test.column()), test.comparison(), test.literal());
    }
    if (condition instanceof Condition.ComparePair test) {
      return new Condition.ComparePair(
          names.apply(test.left()), test.comparison(), names.apply(test.right()));
    }
    if (condition instanceof Condition.In test) {
      return new Condition.In(names.apply(test.column()), test.literals());
    }
    Condition.StartsWith test = (Condition.StartsWith) condition;
    return new Condition.StartsWith(names.apply(test.column()), test.prefix());
  }

  /** A condition as a JSON object. */
  public static Map<String, Object> toJson(Condition condition, Schema schema) {
    Function<String, Integer> id = path -> schema.find(path).id();
    Map<String, Object> json = new LinkedHashMap<>();
    if (condition instanceof Condition.Not not) {
      json.put("not", toJson(not.part(), schema));
    } else if (condition instanceof Condition.And and) {
      json.put("and", and.parts().stream().map(part -> toJson(part, schema)).toList());
    } else if (condition instanceof Condition.Or or) {
      json.put("or", or.parts().stream().map(part -> toJson(part, schema)).toList());
    } else if (condition instanceof Condition.IsNull test) {
      json.put("null", id.apply(test.column()));
    } else if (condition instanceof Condition.Compare test) {
      json.put("column", id.apply(test.column()));
      json.put("is", test.comparison().sql());
      json.put("value", literal(test.literal()));
    } else if (condition instanceof Condition.ComparePair test) {
      json.put("column", id.apply(test.left()));
      json.put("is", test.comparison().sql());
      json.put("other", id.apply(test.right()));
    } else if (condition instanceof Condition.In test) {
      json.put("column", id.apply(test.column()));
      json.put("in", new ArrayList<>(test.literals().stream().map(Conditions::literal).toList()));
    } else if (condition instanceof Condition.StartsWith test) {
      json.put("column", id.apply(test.column()));
      json.put("starts with", test.prefix());
    }
    return json;
  }

  /** Numbers, truth and text stay; what else there is becomes its text, which columns parse. */
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
