package org.ysteron.expr;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.ysteron.data.Schema;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.text.SqlNames;

/**
 * A search condition on the columns of a row, in the three-valued logic of SQL: a comparison with
 * null is unknown, and a row is selected when the condition is true. Columns are named by path (see
 * {@link org.ysteron.data.Schema}); whether they exist and the literals fit is found out when the
 * condition meets a schema ({@link Filter#bind}). As text a condition is SQL.
 *
 * <p>A literal is a value of the column's Java class; any {@link Number} for a numeric column; or
 * text in the form of {@link org.ysteron.data.ValueText} for any column that is not nested. Numbers
 * are compared by their exact value, except that for a real or double column the text of a value
 * stands for that value: {@code 0.1} is equal to the real 0.1, and {@code 16777217} to no real.
 * Start with {@link #column}.
 */
public sealed interface Condition {

  /** The same condition with other column paths. */
  Condition renamed(UnaryOperator<String> paths);

  /** Calls the case of this kind of condition. */
  <T> T match(Cases<T> cases);

  /** One method per kind of condition. */
  interface Cases<T> {
    T compare(Compare test);

    T comparePair(ComparePair test);

    T in(In test);

    T isNull(IsNull test);

    T startsWith(StartsWith test);

    T and(And test);

    T or(Or test);

    T not(Not test);
  }

  /** The paths of all columns in the condition. */
  default Set<String> columns() {
    Set<String> paths = new LinkedHashSet<>();
    renamed(
        path -> {
          paths.add(path);
          return path;
        });
    return paths;
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
  }

  /** A column compared with a literal. */
  record Compare(String column, Comparison comparison, Object literal) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.compare(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new Compare(paths.apply(column), comparison, literal);
    }

    @Override
    public String toString() {
      return sqlPath(column) + " " + comparison.sql + " " + Values.literal(literal);
    }
  }

  /** Two columns of a row compared with each other. */
  record ComparePair(String left, Comparison comparison, String right) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.comparePair(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new ComparePair(paths.apply(left), comparison, paths.apply(right));
    }

    @Override
    public String toString() {
      return sqlPath(left) + " " + comparison.sql + " " + sqlPath(right);
    }
  }

  /**
   * A column compared with a list of literals (IN). If one is null, a row without a match is
   * unknown, not false.
   */
  record In(String column, List<Object> literals) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.in(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new In(paths.apply(column), literals);
    }

    @Override
    public String toString() {
      if (literals.isEmpty()) {
        return "FALSE";
      }
      StringBuilder sql = new StringBuilder(sqlPath(column)).append(" IN (");
      for (int i = 0; i < literals.size(); i++) {
        sql.append(i > 0 ? ", " : "").append(Values.literal(literals.get(i)));
      }
      return sql.append(')').toString();
    }
  }

  /** Whether a column is null; never unknown. */
  record IsNull(String column) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.isNull(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new IsNull(paths.apply(column));
    }

    @Override
    public String toString() {
      return sqlPath(column) + " IS NULL";
    }
  }

  /** Whether a text column starts with some text. */
  record StartsWith(String column, String prefix) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.startsWith(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new StartsWith(paths.apply(column), prefix);
    }

    @Override
    public String toString() {
      String like = sqlPath(column) + " LIKE ";
      if (prefix.indexOf('%') < 0 && prefix.indexOf('_') < 0) {
        return like + Values.literal(prefix + "%");
      }
      String escaped = prefix.replaceAll("[%_!]", "!$0");
      return like + Values.literal(escaped + "%") + " ESCAPE '!'";
    }
  }

  /** AND of conditions; true for none. */
  record And(List<Condition> parts) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.and(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new And(parts.stream().map(part -> part.renamed(paths)).toList());
    }

    @Override
    public String toString() {
      return joined(parts, " AND ");
    }
  }

  /** OR of conditions; false for none. */
  record Or(List<Condition> parts) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.or(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new Or(parts.stream().map(part -> part.renamed(paths)).toList());
    }

    @Override
    public String toString() {
      return joined(parts, " OR ");
    }
  }

  /** NOT of a condition; unknown stays unknown. */
  record Not(Condition part) implements Condition {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.not(this);
    }

    @Override
    public Condition renamed(UnaryOperator<String> paths) {
      return new Not(part.renamed(paths));
    }

    @Override
    public String toString() {
      return "NOT (" + part + ")";
    }
  }

  /** Every row. */
  static Condition all() {
    return new And(List.of());
  }

  default Condition and(Condition other) {
    return new And(
        joined(this, other, part -> part instanceof And and ? and.parts : List.of(part)));
  }

  default Condition or(Condition other) {
    return new Or(joined(this, other, part -> part instanceof Or or ? or.parts : List.of(part)));
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
      for (Condition part : and.parts) {
        Condition simple = part.simplified();
        flat.addAll(simple instanceof And inner ? inner.parts : List.of(simple));
      }
      return flat.size() == 1 ? flat.get(0) : new And(flat);
    }
    if (this instanceof Or or) {
      for (Condition part : or.parts) {
        Condition simple = part.simplified();
        flat.addAll(simple instanceof Or inner ? inner.parts : List.of(simple));
      }
      return flat.size() == 1 ? flat.get(0) : new Or(flat);
    }
    return this;
  }

  /** How deep AND, OR and NOT are nested; more than {@code most} is told as one more than that. */
  default int depth(int most) {
    List<Condition> parts =
        this instanceof And and
            ? and.parts
            : this instanceof Or or ? or.parts : this instanceof Not not ? List.of(not.part) : null;
    if (parts == null || most < 0) {
      return 0;
    }
    int deepest = 0;
    for (Condition part : parts) {
      deepest = Math.max(deepest, part.depth(most - 1));
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

  /** Starts a condition on a column. */
  static Column column(String path) {
    return new Column(path);
  }

  /** A column, to be compared with something. */
  record Column(String path) {
    public Condition equalTo(Object literal) {
      return new Compare(path, Comparison.EQUAL, literal);
    }

    public Condition notEqualTo(Object literal) {
      return new Compare(path, Comparison.NOT_EQUAL, literal);
    }

    public Condition lessThan(Object literal) {
      return new Compare(path, Comparison.LESS, literal);
    }

    public Condition atMost(Object literal) {
      return new Compare(path, Comparison.AT_MOST, literal);
    }

    public Condition greaterThan(Object literal) {
      return new Compare(path, Comparison.GREATER, literal);
    }

    public Condition atLeast(Object literal) {
      return new Compare(path, Comparison.AT_LEAST, literal);
    }

    /** BETWEEN; both bounds are included. */
    public Condition between(Object low, Object high) {
      return atLeast(low).and(atMost(high));
    }

    public Condition in(Collection<?> literals) {
      return new In(path, new ArrayList<>(literals));
    }

    /** Compares with another column of the same row. */
    public Condition compared(Comparison comparison, String otherPath) {
      return new ComparePair(path, comparison, otherPath);
    }

    public Condition isNull() {
      return new IsNull(path);
    }

    public Condition isNotNull() {
      return new Not(new IsNull(path));
    }

    public Condition startsWith(String prefix) {
      return new StartsWith(path, prefix);
    }
  }

  /** The path of nested names. */
  private static String sqlPath(String path) {
    return String.join(".", Schema.parsePath(path).stream().map(SqlNames::of).toList());
  }
}
