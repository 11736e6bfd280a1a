package org.ysteron.internal.evaluate;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.Period;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Random;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Call;
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.internal.typing.Typing;

/** Expressions have the values that DuckDB gives them, where SQL means the same to both. */
class DuckTest {
  private static final int WANTED = Integer.getInteger("ysteron.duck", 500);
  private static final int ROWS = 30;
  private static final List<String> KINDS =
      List.of("number", "number", "text", "date", "stamp", "bool");

  /** What DuckDB understands otherwise, or not at all. */
  private static final class Otherwise extends RuntimeException {
    private static final long serialVersionUID = 1L;
  }

  @Test
  void valuesAreThoseOfDuckdb() throws SQLException {
    long seed = Long.getLong("ysteron.seed", 1L); // what DuckDB means otherwise is not all known
    try (Connection duck = DriverManager.getConnection("jdbc:duckdb:")) {
      int compared = 0;
      for (; compared < WANTED; seed++) {
        Random random = new Random(seed);
        RandomExpressions expressions = new RandomExpressions(random);
        Batch batch = expressions.batch(ROWS);
        fill(duck, batch);
        for (int i = 0; i < 40; i++) {
          Expression expression =
              expressions.value(KINDS.get(random.nextInt(KINDS.size())), 1 + random.nextInt(3));
          compared += compare(duck, batch, expression, "seed " + seed) ? 1 : 0;
        }
      }
    }
  }

  private static void execute(Connection duck, String sql) throws SQLException {
    try (Statement statement = duck.createStatement()) {
      statement.execute(sql);
    }
  }

  private static void fill(Connection duck, Batch batch) throws SQLException {
    execute(duck, "set timezone = 'UTC'");
    List<Field> columns =
        RandomExpressions.SCHEMA.columns().stream().filter(c -> !c.type().isNested()).toList();
    execute(
        duck,
        "create or replace table t ("
            + columns.stream()
                .map(c -> c.name() + " " + type(c.type()))
                .collect(Collectors.joining(", "))
            + ")");
    for (int i = 0; i < batch.size(); i++) {
      int row = i;
      execute(
          duck,
          "insert into t values ("
              + columns.stream()
                  .map(c -> literal(batch.vector(c.name()).get(row)))
                  .collect(Collectors.joining(", "))
              + ")");
    }
  }

  private static String type(Type type) {
    return type == Types.JSON ? "VARCHAR" : type.toString();
  }

  private static String literal(Object value) {
    if (value instanceof Double || value instanceof Float) {
      return "CAST('" + value + "' AS DOUBLE)";
    }
    if (value instanceof LocalDate date) {
      return date.getYear() > 0
          ? "DATE '" + date + "'"
          : "DATE '%04d-%02d-%02d (BC)'"
              .formatted(1 - date.getYear(), date.getMonthValue(), date.getDayOfMonth());
    }
    if (value instanceof LocalDateTime time) {
      String date = literal(time.toLocalDate());
      return "(" + date + " + TIME '" + time.toLocalTime() + "')";
    }
    if (value instanceof java.time.Instant instant) {
      LocalDateTime local = LocalDateTime.ofInstant(instant, java.time.ZoneOffset.UTC);
      return "CAST(" + literal(local) + " AS TIMESTAMPTZ)";
    }
    if (value instanceof String text && text.indexOf('\u0000') >= 0) {
      return "('' || chr(0))";
    }
    return Values.literal(value);
  }

  private static boolean compare(Connection duck, Batch batch, Expression expression, String what) {
    String sql;
    Computation computation;
    try {
      sql = sql(expression);
      computation = new Computation(new Typing(RandomExpressions.SCHEMA).type(expression));
    } catch (Otherwise | InvalidInputException e) {
      return false;
    }
    Vector ours;
    try {
      ours = computation.values(batch);
    } catch (ComputeException e) {
      return false; // it may fail in other rows there
    }
    boolean isTime = List.of(Types.DATE, Types.TIMESTAMP).contains(computation.type());
    sql = isTime ? "epoch_us(CAST(" + sql + " AS TIMESTAMP))" : sql;
    try (Statement statement = duck.createStatement();
        ResultSet result = statement.executeQuery("select " + sql + " from t order by rowid")) {
      for (int i = 0; i < batch.size(); i++) {
        result.next();
        Object theirs = result.getObject(1);
        assertThat(same(ours.get(i), theirs))
            .as(
                "%s: %s, as %s, of %s: ours %s, theirs %s",
                what, expression, sql, batch.row(i), ours.get(i), theirs)
            .isTrue();
      }
    } catch (SQLException e) {
      return false; // types that meet here do not meet there, or overflow sooner
    }
    return true;
  }

  private static boolean same(Object ours, Object theirs) {
    if (ours == null || theirs == null) {
      return ours == theirs;
    }
    if (ours instanceof Double || ours instanceof Float) {
      double a = ((Number) ours).doubleValue();
      double b = ((Number) theirs).doubleValue();
      return a == b
          || Double.compare(a, b) == 0
          || Math.abs(a - b) <= 1e-12 * Math.max(Math.abs(a), Math.abs(b));
    }
    if (ours instanceof Number number) {
      if (theirs instanceof Double d) {
        return Math.abs(d - number.doubleValue()) <= 1e-9 * Math.max(1, Math.abs(d));
      }
      return new BigDecimal(ours.toString()).compareTo(new BigDecimal(theirs.toString())) == 0;
    }
    if (ours instanceof LocalDate date) {
      return theirs.equals(Values.toLong(date.atStartOfDay(), Types.TIMESTAMP));
    }
    return ours instanceof LocalDateTime
        ? theirs.equals(Values.toLong(ours, Types.TIMESTAMP))
        : ours.equals(theirs);
  }

  private static String sql(Expression expression) {
    if (expression instanceof Column column) {
      if (column.path().contains(".") || List.of("j", "w", "r", "c", "z").contains(column.path())) {
        throw new Otherwise();
      }
      return column.path();
    }
    if (expression instanceof Literal literal) {
      return literal(literal);
    }
    if (expression instanceof Call call) {
      return call(call);
    }
    if (expression instanceof Cast cast) {
      return cast(cast);
    }
    if (expression instanceof Case choice) {
      StringBuilder sql = new StringBuilder("(CASE");
      for (int i = 0; i < choice.values().size(); i++) {
        sql.append(" WHEN ").append(sql(choice.conditions().get(i)));
        sql.append(" THEN ").append(sql(choice.values().get(i)));
      }
      return sql.append(" ELSE ").append(sql(choice.otherwise())).append(" END)").toString();
    }
    if (expression instanceof TimePart part) {
      return part(part);
    }
    return condition(expression);
  }

  private static String literal(Literal literal) {
    if (literal.value() instanceof Duration time) {
      return "INTERVAL '" + time.toNanos() / 1000 + " microseconds'";
    }
    if (literal.value() instanceof Period months) {
      return "INTERVAL '" + months.toTotalMonths() + " months'";
    }
    if (literal.value() instanceof Float) {
      throw new Otherwise(); // REAL is computed with as DOUBLE PRECISION here
    }
    return "(" + literal(literal.value()) + ")";
  }

  private static Type typeOf(Expression expression) {
    try {
      return new Typing(RandomExpressions.SCHEMA).type(expression).type();
    } catch (InvalidInputException e) {
      throw new Otherwise();
    }
  }

  private static String call(Call call) {
    List<String> parts = call.arguments().stream().map(DuckTest::sql).toList();
    boolean exact =
        call.arguments().stream()
            .map(DuckTest::typeOf)
            .allMatch(type -> Numbers.isExact(type) && Numbers.precision(type) <= 19);
    return switch (call.operator()) {
      case ADD, SUBTRACT ->
          "(" + parts.get(0) + " " + call.operator().sql() + " " + parts.get(1) + ")";
      case MULTIPLY -> "(" + parts.get(0) + " * " + parts.get(1) + ")";
      case NEGATE -> "(-(" + parts.get(0) + "))";
      case ABS -> "abs(" + parts.get(0) + ")";
      case MOD -> exact ? "(" + parts.get(0) + " % " + parts.get(1) + ")" : otherwise();
      case CONCAT -> "(" + parts.get(0) + " || " + parts.get(1) + ")";
      case CHAR_LENGTH -> "length(" + parts.get(0) + ")";
      case POSITION -> "strpos(" + parts.get(1) + ", " + parts.get(0) + ")";
      case COALESCE -> "coalesce(" + String.join(", ", parts) + ")";
      case NULLIF -> "nullif(" + String.join(", ", parts) + ")";
      case FLOOR, CEIL ->
          typeOf(call.arguments().get(0)) instanceof Type.Decimal
              ? call.operator().sql() + "(" + parts.get(0) + ")"
              : otherwise();
      case SQRT -> "sqrt(" + parts.get(0) + ")";
      default -> otherwise();
    };
  }

  private static boolean isApproximate(Type type) {
    return type == Types.DOUBLE || type == Types.REAL;
  }

  private static String otherwise() {
    throw new Otherwise();
  }

  private static String cast(Cast cast) {
    Type from = typeOf(cast.value());
    boolean alike =
        (from == Types.DATE && cast.type() == Types.TIMESTAMP)
            || (from == Types.TIMESTAMP && cast.type() == Types.DATE)
            || (from instanceof Type.Decimal && cast.type() instanceof Type.Decimal)
            || (!isApproximate(from) && from.isNumber() && cast.type() == Types.DOUBLE)
            || (from == Types.INTEGER && cast.type() == Types.BIGINT)
            || ((from == Types.INTEGER || from == Types.BOOLEAN)
                && cast.type().equals(Types.text()));
    return alike ? "CAST(" + sql(cast.value()) + " AS " + cast.type() + ")" : otherwise();
  }

  private static String part(TimePart part) {
    if (typeOf(part.of()) == Types.INSTANT) {
      throw new Otherwise(); // years before Christ are counted otherwise
    }
    String of = sql(part.of());
    String unit = part.unit().name().toLowerCase(Locale.ROOT);
    if (part.kind() == TimePart.Kind.EXTRACT && part.unit() != TimeUnit.SECOND) {
      return "date_part('" + unit + "', " + of + ")";
    }
    // DuckDB 1.4.3 has date_trunc of null be anything where it is an operand.
    return part.kind() == TimePart.Kind.FLOOR
        ? "(CASE WHEN %1$s IS NULL THEN NULL ELSE date_trunc('%2$s', %1$s) END)".formatted(of, unit)
        : otherwise();
  }

  private static String condition(Expression expression) {
    if (expression instanceof Condition.Compare test) {
      return "(" + sql(test.left()) + " " + test.comparison().sql() + " " + sql(test.right()) + ")";
    }
    if (expression instanceof Condition.Distinct test) {
      return "(" + sql(test.left()) + " IS DISTINCT FROM " + sql(test.right()) + ")";
    }
    if (expression instanceof Condition.In test) {
      return "("
          + sql(test.value())
          + " IN ("
          + test.options().stream().map(DuckTest::sql).collect(Collectors.joining(", "))
          + "))";
    }
    if (expression instanceof Condition.IsNull test) {
      return "(" + sql(test.value()) + " IS NULL)";
    }
    if (expression instanceof Condition.Like test) {
      Optional<String> escape =
          test.escape().isPresent()
              ? Optional.of(" ESCAPE '" + Character.toString(test.escape().getAsInt()) + "'")
              : Optional.empty();
      return "(" + sql(test.value()) + " LIKE " + literal(test.pattern()) + escape.orElse("") + ")";
    }
    if (expression instanceof Condition.Holds test) {
      return sql(test.value());
    }
    if (expression instanceof Condition.Not test) {
      return "(NOT " + sql(test.part()) + ")";
    }
    String word = expression instanceof Condition.And ? " AND " : " OR ";
    return expression.parts().stream()
        .map(DuckTest::sql)
        .collect(Collectors.joining(word, "(", ")"));
  }
}
