package org.ysteron.expr;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;

/**
 * A search condition on the columns of a row, in the three-valued logic of SQL: a comparison with
 * null is unknown, and a row is selected when the condition is true. Columns are named by path (see
 * {@link org.ysteron.data.Schema}); whether they exist and the literals fit is found out when the
 * condition meets a schema. As text a condition is SQL.
 *
 * <p>A literal that is compared with a column is a value of the column's Java class; any {@link
 * Number} for a numeric column; or text in the form of {@link org.ysteron.data.ValueText} for any
 * column that is not nested. Numbers are compared by their exact value, except that for a real or
 * double column the text of a value stands for that value: {@code 0.1} is equal to the real 0.1,
 * and {@code 16777217} to no real. Exact numbers and approximate ones are compared as DOUBLE
 * PRECISION. Start with {@link #column}.
 */
public sealed interface Condition extends Expression {

  @Override
  Condition withParts(List<Expression> parts);

  @Override
  default Condition renamed(UnaryOperator<String> paths) {
    return (Condition) Expression.super.renamed(paths);
  }

  @Override
  default Condition at(java.time.Instant now) {
    return (Condition) Expression.super.at(now);
  }

  /** Calls the case of this kind of condition. */
  <T> T match(Cases<T> cases);

  /** One method per kind of condition. */
  interface Cases<T> {
    T compare(Compare test);

    T distinct(Distinct test);

    T in(In test);

    T isNull(IsNull test);

    T like(Like test);

    T holds(Holds test);

    T and(And test);

    T or(Or test);

    T not(Not test);

    T unknown(Unknown test);
  }

  /** How two values compare. */
  enum Comparison {
    EQUAL("="),
    NOT_EQUAL("<>"),
    LESS("<"),
    AT_MOST("<="),
    GREATER(">"),
    AT_LEAST(">=");

    private final String sql;

    Comparison(String sql) {
      this.sql = sql;
    }

    /** The SQL operator. */
    public String sql() {
      return sql;
    }

    /** The comparison of an SQL operator. */
    public static Comparison of(String sql) {
      for (Comparison comparison : values()) {
        if (comparison.sql.equals(sql)) {
          return comparison;
        }
      }
      throw new DamagedException("There is no comparison " + sql + ".");
    }

    public Comparison negated() {
      return switch (this) {
        case EQUAL -> NOT_EQUAL;
        case NOT_EQUAL -> EQUAL;
        case LESS -> AT_LEAST;
        case AT_MOST -> GREATER;
        case GREATER -> AT_MOST;
        case AT_LEAST -> LESS;
      };
    }

    /** The same with both sides exchanged. */
    public Comparison turned() {
      return switch (this) {
        case EQUAL, NOT_EQUAL -> this;
        case LESS -> GREATER;
        case AT_MOST -> AT_LEAST;
        case GREATER -> LESS;
        case AT_LEAST -> AT_MOST;
      };
    }

    /** Whether values that are so ordered pass; below zero is less. */
    public boolean holds(int order) {
      return switch (this) {
        case EQUAL -> order == 0;
        case NOT_EQUAL -> order != 0;
        case LESS -> order < 0;
        case AT_MOST -> order <= 0;
        case GREATER -> order > 0;
        case AT_LEAST -> order >= 0;
      };
    }
  }

  /** Two values compared with each other. */
  record Compare(Expression left, Comparison comparison, Expression right) implements Condition {
    /** A column compared with a literal. */
    public Compare(String column, Comparison comparison, Object literal) {
      this(new Column(column), comparison, Literal.orExpression(literal));
    }

    @Override
    public <T> T match(Cases<T> cases) {
      return cases.compare(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(left, right);
    }

    @Override
    public Compare withParts(List<Expression> parts) {
      return new Compare(parts.get(0), comparison, parts.get(1));
    }

    @Override
    public String toString() {
      return SqlForm.compared(left, comparison.sql, right);
    }
  }

  /** Whether two values differ, where null is equal to null; never unknown. */
  record Distinct(Expression left, Expression right) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.distinct(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(left, right);
    }

    @Override
    public Distinct withParts(List<Expression> parts) {
      return new Distinct(parts.get(0), parts.get(1));
    }

    @Override
    public String toString() {
      return SqlForm.compared(left, "IS DISTINCT FROM", right);
    }
  }

  /**
   * A value compared with a list of others (IN). If one is null, a row without a match is unknown,
   * not false.
   */
  record In(Expression value, List<Expression> options) implements Condition {
    public In {
      options = List.copyOf(options);
    }

    @Override
    public <T> T match(Cases<T> cases) {
      return cases.in(this);
    }

    @Override
    public List<Expression> parts() {
      List<Expression> parts = new ArrayList<>(options.size() + 1);
      parts.add(value);
      parts.addAll(options);
      return parts;
    }

    @Override
    public In withParts(List<Expression> parts) {
      return new In(parts.get(0), parts.subList(1, parts.size()));
    }

    @Override
    public String toString() {
      if (options.isEmpty()) {
        return "FALSE";
      }
      boolean withColumn =
          value instanceof Column && options.stream().allMatch(Literal.class::isInstance);
      StringBuilder sql = new StringBuilder(SqlForm.operand(value)).append(" IN (");
      for (int i = 0; i < options.size(); i++) {
        sql.append(i > 0 ? ", " : "").append(SqlForm.compared(options.get(i), withColumn));
      }
      return sql.append(')').toString();
    }
  }

  /** Whether a value is null; never unknown. */
  record IsNull(Expression value) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.isNull(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(value);
    }

    @Override
    public IsNull withParts(List<Expression> parts) {
      return new IsNull(parts.get(0));
    }

    @Override
    public String toString() {
      return SqlForm.operand(value) + " IS NULL";
    }
  }

  /**
   * Whether a text has the form of a pattern.
   *
   * @param pattern {@code %} stands for any characters, {@code _} for one
   * @param escape the character behind which {@code %}, {@code _} and itself are meant as they are
   */
  record Like(Expression value, String pattern, OptionalInt escape) implements Condition {
    private static final int ESCAPE = '!';

    public Like {
      int before = 0;
      for (int at = 0; escape.isPresent() && at < pattern.length(); at += before) {
        int c = pattern.codePointAt(at);
        before = Character.charCount(c);
        if (c == escape.getAsInt()) {
          int next = at + before < pattern.length() ? pattern.codePointAt(at + before) : -1;
          if (next != '%' && next != '_' && next != c) {
            throw new InvalidInputException(
                "In the pattern %s, the escape character %s must be followed by %%, _ or itself."
                    .formatted(Values.quote(pattern), Values.quote(Character.toString(c))));
          }
          before += Character.charCount(next);
        }
      }
    }

    /** Texts that start with some text. */
    static Like startsWith(Expression value, String prefix) {
      boolean plain = prefix.indexOf('%') < 0 && prefix.indexOf('_') < 0;
      return plain
          ? new Like(value, prefix + "%", OptionalInt.empty())
          : new Like(value, prefix.replaceAll("[%_!]", "!$0") + "%", OptionalInt.of(ESCAPE));
    }

    /** What texts that match start with. */
    public String prefix() {
      StringBuilder fixed = new StringBuilder();
      for (int at = 0; at < pattern.length(); ) {
        int c = pattern.codePointAt(at);
        if (escape.isPresent() && c == escape.getAsInt()) {
          at += Character.charCount(c);
          c = pattern.codePointAt(at);
        } else if (c == '%' || c == '_') {
          break;
        }
        fixed.appendCodePoint(c);
        at += Character.charCount(c);
      }
      return fixed.toString();
    }

    /** The prefix, if all texts that start with it match. */
    public Optional<String> onlyPrefix() {
      String prefix = prefix();
      return equals(startsWith(value, prefix)) || pattern.equals(escaped(prefix) + "%")
          ? Optional.of(prefix)
          : Optional.empty();
    }

    /** The only text that matches; empty when there are others. */
    public Optional<String> onlyText() {
      String prefix = prefix();
      return pattern.equals(escaped(prefix)) ? Optional.of(prefix) : Optional.empty();
    }

    /** A text as it stands in a pattern with this one's escape character. */
    private String escaped(String text) {
      if (escape.isEmpty()) {
        return text;
      }
      StringBuilder escaped = new StringBuilder();
      text.codePoints()
          .forEach(
              c -> {
                if (c == '%' || c == '_' || c == escape.getAsInt()) {
                  escaped.appendCodePoint(escape.getAsInt());
                }
                escaped.appendCodePoint(c);
              });
      return escaped.toString();
    }

    @Override
    public <T> T match(Cases<T> cases) {
      return cases.like(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(value);
    }

    @Override
    public Like withParts(List<Expression> parts) {
      return new Like(parts.get(0), pattern, escape);
    }

    @Override
    public String toString() {
      String like = SqlForm.operand(value) + " LIKE " + Values.literal(pattern);
      return escape.isEmpty()
          ? like
          : like + " ESCAPE " + Values.literal(Character.toString(escape.getAsInt()));
    }
  }

  /** Whether a boolean expression is true. */
  record Holds(Expression value) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.holds(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(value);
    }

    @Override
    public Holds withParts(List<Expression> parts) {
      return new Holds(parts.get(0));
    }

    @Override
    public String toString() {
      return value.toString();
    }
  }

  /** AND of conditions; true for none. */
  record And(List<Condition> conditions) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.and(this);
    }

    @Override
    public List<Expression> parts() {
      return List.copyOf(conditions);
    }

    @Override
    public And withParts(List<Expression> parts) {
      return new And(parts.stream().map(Condition.class::cast).toList());
    }

    @Override
    public String toString() {
      return joined(conditions, " AND ");
    }
  }

  /** OR of conditions; false for none. */
  record Or(List<Condition> conditions) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.or(this);
    }

    @Override
    public List<Expression> parts() {
      return List.copyOf(conditions);
    }

    @Override
    public Or withParts(List<Expression> parts) {
      return new Or(parts.stream().map(Condition.class::cast).toList());
    }

    @Override
    public String toString() {
      return joined(conditions, " OR ");
    }
  }

  /** NOT of a condition; unknown stays unknown. */
  record Not(Condition part) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.not(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of(part);
    }

    @Override
    public Not withParts(List<Expression> parts) {
      return new Not((Condition) parts.get(0));
    }

    @Override
    public String toString() {
      return "NOT (" + part + ")";
    }
  }

  /**
   * A stored condition of a form that this program does not know. It can be shown, but not tested.
   *
   * @param text it in SQL
   * @param json what was stored
   */
  record Unknown(String text, Map<?, ?> json) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.unknown(this);
    }

    @Override
    public List<Expression> parts() {
      return List.of();
    }

    @Override
    public Unknown withParts(List<Expression> parts) {
      return this;
    }

    @Override
    public String toString() {
      return text;
    }
  }

  /** Every row. */
  static Condition all() {
    return new And(List.of());
  }

  /** Starts a condition on a column. */
  static Column column(String path) {
    return new Column(path);
  }

  default Condition and(Condition other) {
    return new And(
        joined(this, other, part -> part instanceof And and ? and.conditions : List.of(part)));
  }

  default Condition or(Condition other) {
    return new Or(
        joined(this, other, part -> part instanceof Or or ? or.conditions : List.of(part)));
  }

  private static List<Condition> joined(
      Condition one, Condition other, Function<Condition, List<Condition>> parts) {
    List<Condition> all = new ArrayList<>(parts.apply(one));
    all.addAll(parts.apply(other));
    return all;
  }

  /** The same condition without AND in AND and OR in OR. */
  default Condition simplified() {
    if (this instanceof Not not) {
      return new Not(not.part.simplified());
    }
    List<Condition> flat = new ArrayList<>();
    if (this instanceof And and) {
      for (Condition part : and.conditions) {
        Condition simple = part.simplified();
        flat.addAll(simple instanceof And inner ? inner.conditions : List.of(simple));
      }
      return flat.size() == 1 ? flat.get(0) : new And(flat);
    }
    if (this instanceof Or or) {
      for (Condition part : or.conditions) {
        Condition simple = part.simplified();
        flat.addAll(simple instanceof Or inner ? inner.conditions : List.of(simple));
      }
      return flat.size() == 1 ? flat.get(0) : new Or(flat);
    }
    return this;
  }

  /** How deep AND, OR and NOT are nested; more than {@code most} is told as one more than that. */
  default int logicalDepth(int most) {
    List<Condition> parts =
        this instanceof And and
            ? and.conditions
            : this instanceof Or or
                ? or.conditions
                : this instanceof Not not ? List.of(not.part) : null;
    if (parts == null || most < 0) {
      return 0;
    }
    int deepest = 0;
    for (Condition part : parts) {
      deepest = Math.max(deepest, part.logicalDepth(most - 1));
    }
    return 1 + deepest;
  }

  default Condition not() {
    return new Not(this);
  }

  private static String joined(List<Condition> parts, String word) {
    if (parts.isEmpty()) {
      return word.equals(" AND ") ? "TRUE" : "FALSE";
    }
    StringBuilder sql = new StringBuilder();
    for (Condition part : parts) {
      boolean inner = part instanceof And || part instanceof Or;
      sql.append(sql.isEmpty() ? "" : word).append(inner ? "(" + part + ")" : part.toString());
    }
    return sql.toString();
  }
}
