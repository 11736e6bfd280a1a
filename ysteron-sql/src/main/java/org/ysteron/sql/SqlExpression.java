package org.ysteron.sql;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.Period;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.BinaryOperator;
import java.util.function.IntPredicate;
import org.apache.calcite.avatica.util.TimeUnit;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlIntervalLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlUpdate;
import org.apache.calcite.sql.fun.SqlBetweenOperator;
import org.apache.calcite.sql.fun.SqlCase;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.text.Decimals;

/**
 * Turns SQL value expressions into functions of a row: columns, literals, {@code + - * / ||},
 * intervals, comparisons in three-valued logic, CASE, COALESCE, NULLIF, ABS, UPPER, LOWER, TRIM,
 * CAST to a number or to text. {@code source.x} is column x of the source's row.
 */
public final class SqlExpression {
  private static final String BEFORE = "UPDATE t SET\n";
  private static final String SOURCE = "source";
  private static final int MOST_DEPTH = 200;

  private final SqlText text;
  private final Schema table;
  private final Optional<Schema> source;
  private int depth;

  private SqlExpression(SqlText text, Schema table, Optional<Schema> source) {
    this.text = text;
    this.table = table;
    this.source = source;
  }

  /**
   * Parses {@code level_cm = level_cm + 12, quality = 'shifted'}.
   *
   * @param source the columns of a source that expressions may name
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Map<String, RowFunction> assignments(
      String sql, Schema table, Optional<Schema> source) {
    SqlText text = new SqlText(sql, 1);
    SqlExpression parser = new SqlExpression(text, table, source);
    if (!(text.statement(BEFORE + sql) instanceof SqlUpdate update)
        || update.getCondition() != null) {
      throw new InvalidInputException(
          "Give assignments, as in \"level_cm = level_cm + 12, quality = 'shifted'\".");
    }
    Map<String, RowFunction> values = new LinkedHashMap<>();
    for (int i = 0; i < update.getTargetColumnList().size(); i++) {
      SqlIdentifier column = (SqlIdentifier) update.getTargetColumnList().get(i);
      String name = parser.known(table, column);
      if (values.put(name, parser.of(update.getSourceExpressionList().get(i))) != null) {
        throw text.wrong("Column " + name + " is set twice.", column.getParserPosition(), null);
      }
    }
    return values;
  }

  /** Parses an expression over a row of the table and one of the source. */
  public static RowFunction parse(String sql, Schema table, Optional<Schema> source) {
    SqlText text = new SqlText(sql, 0);
    return new SqlExpression(text, table, source).of(text.expression());
  }

  private String known(Schema schema, SqlIdentifier column) {
    String name = SqlCondition.fold(schema.struct(), column.getSimple());
    try {
      schema.resolve(Schema.path(List.of(name)));
      return name;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), column.getParserPosition(), e);
    }
  }

  private RowFunction of(SqlNode node) {
    if (++depth > MOST_DEPTH) {
      throw text.wrong("The expression is nested too deep.", node.getParserPosition(), null);
    }
    RowFunction function = unbounded(node);
    depth--;
    return function;
  }

  private RowFunction unbounded(SqlNode node) {
    if (node instanceof SqlIdentifier identifier) {
      return column(identifier);
    }
    if (node instanceof SqlIntervalLiteral interval) {
      Object amount = interval(interval);
      return (row, given) -> amount;
    }
    if (!(node instanceof SqlCall call)) {
      Object value = new SqlCondition(text, table).literal(node);
      return (row, given) -> value;
    }
    RowFunction unsafe = call(call);
    return (row, given) -> {
      try {
        return unsafe.apply(row, given);
      } catch (InvalidInputException e) {
        throw text.wrong(e.getMessage() + ".", node.getParserPosition(), e);
      }
    };
  }

  private RowFunction column(SqlIdentifier identifier) {
    List<String> names = identifier.names;
    boolean given = source.isPresent() && names.size() > 1 && names.get(0).equals(SOURCE);
    Schema schema = given ? source.get() : table;
    List<String> path = new ArrayList<>();
    Type.@Nullable Struct level = schema.struct();
    for (String name : names.subList(given ? 1 : 0, names.size())) {
      String known = level == null ? name : SqlCondition.fold(level, name);
      path.add(known);
      int at = level == null ? -1 : level.indexOf(known);
      level =
          level != null && at >= 0 && level.fields().get(at).type() instanceof Type.Struct s
              ? s
              : null;
    }
    try {
      schema.resolve(Schema.path(path));
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), identifier.getParserPosition(), e);
    }
    return (row, from) -> walk(given ? from : row, path);
  }

  private static @Nullable Object walk(Row row, List<String> path) {
    Object value = row;
    for (String name : path) {
      value = value == null ? null : ((Row) value).get(name);
    }
    return value;
  }

  private Object interval(SqlIntervalLiteral literal) {
    var value = (SqlIntervalLiteral.IntervalValue) literal.getValue();
    TimeUnit unit = value.getIntervalQualifier().getStartUnit();
    if (value.getIntervalQualifier().timeUnitRange.endUnit == null) {
      try {
        int count = value.getSign() * Integer.parseInt(value.getIntervalLiteral().strip());
        Object amount = amount(unit, count);
        if (amount != null) {
          return amount;
        }
      } catch (NumberFormatException e) {
        throw text.wrong(
            "This interval is not a whole number of " + unit + ".", literal.getParserPosition(), e);
      }
    }
    throw text.wrong(
        "An interval has one unit from YEAR to SECOND, as in INTERVAL '1' HOUR.",
        literal.getParserPosition(),
        null);
  }

  private static @Nullable Object amount(TimeUnit unit, int count) {
    return switch (unit) {
      case YEAR -> Period.ofYears(count);
      case MONTH -> Period.ofMonths(count);
      case DAY -> Duration.ofDays(count);
      case HOUR -> Duration.ofHours(count);
      case MINUTE -> Duration.ofMinutes(count);
      case SECOND -> Duration.ofSeconds(count);
      default -> null;
    };
  }

  private RowFunction call(SqlCall call) {
    if (call instanceof SqlCase choice) {
      return choice(choice);
    }
    return switch (call.getKind()) {
      case PLUS -> both(call, SqlNumbers::add);
      case MINUS -> both(call, SqlNumbers::subtract);
      case TIMES -> both(call, SqlNumbers::multiply);
      case DIVIDE -> both(call, SqlNumbers::divide);
      case MINUS_PREFIX -> one(call, value -> SqlNumbers.subtract(BigDecimal.ZERO, value));
      case PLUS_PREFIX -> of(call.operand(0));
      case EQUALS -> compare(call, order -> order == 0);
      case NOT_EQUALS -> compare(call, order -> order != 0);
      case LESS_THAN -> compare(call, order -> order < 0);
      case LESS_THAN_OR_EQUAL -> compare(call, order -> order <= 0);
      case GREATER_THAN -> compare(call, order -> order > 0);
      case GREATER_THAN_OR_EQUAL -> compare(call, order -> order >= 0);
      case AND -> logic(parts(call), false);
      case OR -> logic(parts(call), true);
      case NOT -> one(call, value -> !isTrue(value));
      case IS_NULL -> isNull(of(call.operand(0)), true);
      case IS_NOT_NULL -> isNull(of(call.operand(0)), false);
      case IN -> in(call);
      case BETWEEN -> between((SqlBasicCall) call);
      case COALESCE -> coalesce(call);
      case NULLIF -> nullIf(of(call.operand(0)), of(call.operand(1)));
      case CAST -> cast(call);
      default -> named(call);
    };
  }

  private RowFunction named(SqlCall call) {
    return switch (call.getOperator().getName().toUpperCase(Locale.ROOT)) {
      case "||" -> both(call, (a, b) -> a.toString() + b);
      case "COALESCE" -> coalesce(call);
      case "NULLIF" -> nullIf(of(call.operand(0)), of(call.operand(1)));
      case "UPPER" -> one(call, value -> value.toString().toUpperCase(Locale.ROOT));
      case "LOWER" -> one(call, value -> value.toString().toLowerCase(Locale.ROOT));
      case "ABS" ->
          one(
              call,
              value ->
                  SqlNumbers.compare(value, BigDecimal.ZERO) < 0
                      ? SqlNumbers.subtract(BigDecimal.ZERO, value)
                      : value);
      default ->
          throw text.wrong(
              "This is not supported here: "
                  + call.getOperator().getName()
                  + ". There are columns, literals, + - * /, ||, intervals, comparisons, AND, OR, NOT, CASE, COALESCE, NULLIF, ABS, UPPER, LOWER, CAST.",
              call.getParserPosition(),
              null);
    };
  }

  private RowFunction both(SqlCall call, BinaryOperator<Object> operator) {
    RowFunction left = of(call.operand(0));
    RowFunction right = of(call.operand(1));
    return (row, given) -> {
      Object a = left.apply(row, given);
      Object b = a == null ? null : right.apply(row, given);
      return b == null ? null : operator.apply(a, b);
    };
  }

  private RowFunction one(SqlCall call, java.util.function.UnaryOperator<Object> operator) {
    if (call.operandCount() != 1) {
      throw text.wrong("One argument is expected here.", call.getParserPosition(), null);
    }
    RowFunction inner = of(call.operand(0));
    return (row, given) -> {
      Object value = inner.apply(row, given);
      return value == null ? null : operator.apply(value);
    };
  }

  private RowFunction compare(SqlCall call, IntPredicate test) {
    return both(call, (a, b) -> test.test(SqlNumbers.compare(a, b)));
  }

  private static boolean isTrue(Object value) {
    if (value instanceof Boolean known) {
      return known;
    }
    throw new InvalidInputException(Values.show(value) + " is neither true nor false");
  }

  private List<RowFunction> parts(SqlCall call) {
    return SqlCondition.chain(call).stream().map(this::of).toList();
  }

  /** AND, OR: decided by one part alone when that has the deciding value; else null may win. */
  private static RowFunction logic(List<RowFunction> parts, boolean deciding) {
    return (row, given) -> {
      boolean known = true;
      for (RowFunction part : parts) {
        Object value = part.apply(row, given);
        if (value != null && isTrue(value) == deciding) {
          return deciding;
        }
        known &= value != null;
      }
      return known ? (Object) !deciding : null;
    };
  }

  private static RowFunction isNull(RowFunction inner, boolean wanted) {
    return (row, given) -> (inner.apply(row, given) == null) == wanted;
  }

  private RowFunction in(SqlCall call) {
    RowFunction value = of(call.operand(0));
    if (!(call.operand(1) instanceof SqlNodeList list)) {
      throw text.wrong("IN takes a list of values here.", call.getParserPosition(), null);
    }
    List<RowFunction> options = new ArrayList<>();
    list.forEach(option -> options.add(of(option)));
    return (row, given) -> {
      Object found = value.apply(row, given);
      Object result = false;
      for (RowFunction option : options) {
        Object candidate = option.apply(row, given);
        if (found == null || candidate == null) {
          result = null;
        } else if (SqlNumbers.compare(found, candidate) == 0) {
          return true;
        }
      }
      return result;
    };
  }

  private RowFunction between(SqlBasicCall call) {
    boolean negated = ((SqlBetweenOperator) call.getOperator()).isNegated();
    RowFunction value = of(call.operand(0));
    RowFunction low = of(call.operand(1));
    RowFunction high = of(call.operand(2));
    return (row, given) -> {
      Object v = value.apply(row, given);
      Object a = low.apply(row, given);
      Object b = high.apply(row, given);
      if (v == null || a == null || b == null) {
        return null;
      }
      boolean inside = SqlNumbers.compare(v, a) >= 0 && SqlNumbers.compare(v, b) <= 0;
      return inside != negated;
    };
  }

  private RowFunction coalesce(SqlCall call) {
    List<RowFunction> options = call.getOperandList().stream().map(this::of).toList();
    return (row, given) -> {
      for (RowFunction option : options) {
        Object value = option.apply(row, given);
        if (value != null) {
          return value;
        }
      }
      return null;
    };
  }

  private static RowFunction nullIf(RowFunction value, RowFunction other) {
    return (row, given) -> {
      Object a = value.apply(row, given);
      Object b = other.apply(row, given);
      return a != null && b != null && SqlNumbers.compare(a, b) == 0 ? null : a;
    };
  }

  private RowFunction choice(SqlCase choice) {
    List<RowFunction> conditions = new ArrayList<>();
    List<RowFunction> results = new ArrayList<>();
    choice.getWhenOperands().forEach(node -> conditions.add(of(node)));
    choice.getThenOperands().forEach(node -> results.add(of(node)));
    RowFunction last = of(choice.getElseOperand());
    if (choice.getValueOperand() != null) {
      RowFunction subject = of(choice.getValueOperand());
      conditions.replaceAll(
          option ->
              (row, given) -> {
                Object a = subject.apply(row, given);
                Object b = option.apply(row, given);
                return a != null && b != null && SqlNumbers.compare(a, b) == 0;
              });
    }
    return (row, given) -> {
      for (int i = 0; i < conditions.size(); i++) {
        if (Boolean.TRUE.equals(conditions.get(i).apply(row, given))) {
          return results.get(i).apply(row, given);
        }
      }
      return last.apply(row, given);
    };
  }

  private RowFunction cast(SqlCall call) {
    SqlDataTypeSpec spec = call.operand(1);
    Type type = SqlColumns.type(spec, text);
    RowFunction inner = of(call.operand(0));
    return (row, given) -> {
      Object value = inner.apply(row, given);
      return value == null ? null : cast(value, type);
    };
  }

  private static Object cast(Object value, Type type) {
    if (type instanceof Type.Text) {
      return value instanceof BigDecimal number ? Decimals.show(number) : value.toString();
    }
    if (value instanceof String written) {
      return org.ysteron.data.ValueText.parse(written, type);
    }
    if (value instanceof Number number) {
      if (!Double.isFinite(number.doubleValue()) && !(number instanceof BigDecimal)) {
        return Values.accept(number, type);
      }
      BigDecimal exact = Decimals.of(number);
      if (type instanceof Type.Decimal decimal) {
        return exact.setScale(decimal.scale(), RoundingMode.HALF_UP);
      }
      if (type == org.ysteron.data.Types.DOUBLE || type == org.ysteron.data.Types.REAL) {
        return number.doubleValue();
      }
      return exact.setScale(0, RoundingMode.DOWN);
    }
    return Values.accept(value, type);
  }
}
