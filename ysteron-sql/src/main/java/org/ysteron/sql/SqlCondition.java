package org.ysteron.sql;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlUnknownLiteral;
import org.apache.calcite.sql.fun.SqlBetweenOperator;
import org.apache.calcite.sql.fun.SqlLikeOperator;
import org.apache.calcite.util.BitString;
import org.apache.calcite.util.NlsString;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.text.Decimals;

/**
 * Turns an SQL search condition into a {@link Condition} on a schema: comparisons of a column with
 * a literal or with another column, BETWEEN, IN, LIKE with a fixed start, IS NULL, boolean columns,
 * AND, OR, NOT. Names are compared exactly, or without regard to case when only one column fits.
 */
public final class SqlCondition {
  private final SqlText text;
  private final Schema schema;

  SqlCondition(SqlText text, Schema schema) {
    this.text = text;
    this.schema = schema;
  }

  /**
   * Parses a condition and checks that it fits the schema.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Condition parse(String text, Schema schema) {
    SqlText sql = new SqlText(text, 0);
    SqlCondition parser = new SqlCondition(sql, schema);
    return sql.bounded(() -> parser.condition(sql.expression()));
  }

  private Condition condition(SqlNode node) {
    return switch (node.getKind()) {
      case AND -> new Condition.And(parts(node)).simplified();
      case OR -> new Condition.Or(parts(node)).simplified();
      case NOT -> condition(((SqlCall) node).operand(0)).not();
      default -> test(node);
    };
  }

  private List<Condition> parts(SqlNode node) {
    return chain(node).stream().map(this::condition).toList();
  }

  /** The parts of {@code a OR b OR c}, of which the parser makes {@code (a OR b) OR c}. */
  static List<SqlNode> chain(SqlNode node) {
    List<SqlNode> parts = new ArrayList<>();
    SqlNode left = node;
    while (left.getKind() == node.getKind()) {
      parts.add(((SqlCall) left).operand(1));
      left = ((SqlCall) left).operand(0);
    }
    parts.add(left);
    Collections.reverse(parts);
    return parts;
  }

  /** A test of columns, which is checked by itself, so that its place is told. */
  private Condition test(SqlNode node) {
    Condition condition = unchecked(node);
    try {
      Filter.bind(condition, schema);
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), node.getParserPosition(), e);
    }
    return condition;
  }

  private Condition unchecked(SqlNode node) {
    if (node instanceof SqlIdentifier identifier) {
      String column = column(identifier);
      return Condition.column(column).equalTo(true);
    }
    if (node instanceof SqlLiteral literal) {
      Object value = literal(literal);
      if (value instanceof Boolean isTrue) {
        return isTrue ? Condition.all() : new Condition.Or(List.of());
      }
    }
    if (!(node instanceof SqlCall call)) {
      throw unsupported(node);
    }
    SqlKind kind = call.getKind();
    return switch (kind) {
      case EQUALS -> compare(call, Condition.Comparison.EQUAL);
      case NOT_EQUALS -> compare(call, Condition.Comparison.NOT_EQUAL);
      case LESS_THAN -> compare(call, Condition.Comparison.LESS);
      case LESS_THAN_OR_EQUAL -> compare(call, Condition.Comparison.AT_MOST);
      case GREATER_THAN -> compare(call, Condition.Comparison.GREATER);
      case GREATER_THAN_OR_EQUAL -> compare(call, Condition.Comparison.AT_LEAST);
      case IS_NULL -> Condition.column(column(call.operand(0))).isNull();
      case IS_NOT_NULL -> Condition.column(column(call.operand(0))).isNotNull();
      case IN -> in(call);
      case NOT_IN -> in(call).not();
      case BETWEEN -> between((SqlBasicCall) call);
      case LIKE -> like((SqlBasicCall) call);
      default -> throw unsupported(node);
    };
  }

  private SqlTextException unsupported(SqlNode node) {
    return text.wrong(
        "This is not supported in a condition: "
            + (node instanceof SqlCall call ? call.getOperator().getName() : node.toString())
            + ". A condition compares columns with literals or with each other (=, <>, <, <=, >, >=, BETWEEN, IN, LIKE 'start%', IS NULL), joined by AND, OR, NOT.",
        node.getParserPosition(),
        null);
  }

  private Condition compare(SqlCall call, Condition.Comparison comparison) {
    SqlNode left = call.operand(0);
    SqlNode right = call.operand(1);
    if (left instanceof SqlIdentifier && right instanceof SqlIdentifier) {
      return new Condition.ComparePair(column(left), comparison, column(right));
    }
    if (left instanceof SqlIdentifier) {
      return new Condition.Compare(column(left), comparison, literal(right));
    }
    if (right instanceof SqlIdentifier) {
      return new Condition.Compare(column(right), turned(comparison), literal(left));
    }
    throw unsupported(call);
  }

  private static Condition.Comparison turned(Condition.Comparison comparison) {
    return switch (comparison) {
      case EQUAL, NOT_EQUAL -> comparison;
      case LESS -> Condition.Comparison.GREATER;
      case AT_MOST -> Condition.Comparison.AT_LEAST;
      case GREATER -> Condition.Comparison.LESS;
      case AT_LEAST -> Condition.Comparison.AT_MOST;
    };
  }

  private Condition in(SqlCall call) {
    if (!(call.operand(1) instanceof SqlNodeList list)) {
      throw unsupported(call);
    }
    List<Object> literals = new ArrayList<>();
    for (SqlNode node : list) {
      literals.add(literal(node));
    }
    return Condition.column(column(call.operand(0))).in(literals);
  }

  private Condition between(SqlBasicCall call) {
    SqlBetweenOperator operator = (SqlBetweenOperator) call.getOperator();
    Condition.Column column = Condition.column(column(call.operand(0)));
    Object low = literal(call.operand(1));
    Object high = literal(call.operand(2));
    Condition between = column.between(low, high);
    if (operator.flag == SqlBetweenOperator.Flag.SYMMETRIC) {
      between = between.or(column.between(high, low));
    }
    return operator.isNegated() ? between.not() : between;
  }

  private Condition like(SqlBasicCall call) {
    if (!(literal(call.operand(1)) instanceof String pattern)) {
      throw unsupported(call);
    }
    String column = column(call.operand(0));
    int escape = escape(call);
    StringBuilder fixed = new StringBuilder();
    int wild = 0;
    while (wild < pattern.length() && pattern.charAt(wild) != '%' && pattern.charAt(wild) != '_') {
      wild += pattern.charAt(wild) == escape && wild + 1 < pattern.length() ? 1 : 0;
      fixed.append(pattern.charAt(wild++));
    }
    Condition condition;
    if (wild == pattern.length()) {
      condition = Condition.column(column).equalTo(fixed.toString());
    } else if (wild == pattern.length() - 1 && pattern.charAt(wild) == '%') {
      condition = Condition.column(column).startsWith(fixed.toString());
    } else {
      throw text.wrong(
          "LIKE is supported with one % at the end only, as in LIKE 'ORR-%'.",
          call.operand(1).getParserPosition(), null);
    }
    return ((SqlLikeOperator) call.getOperator()).isNegated() ? condition.not() : condition;
  }

  /** The character before one that is meant as it is; -1 for none. */
  private int escape(SqlBasicCall call) {
    if (call.operandCount() < 3) {
      return -1;
    }
    if (literal(call.operand(2)) instanceof String escape && escape.length() == 1) {
      return escape.charAt(0);
    }
    throw text.wrong(
        "ESCAPE takes one character, as in ESCAPE '!'.", call.operand(2).getParserPosition(), null);
  }

  private String column(SqlNode node) {
    if (!(node instanceof SqlIdentifier identifier)) {
      throw unsupported(node);
    }
    List<String> path = new ArrayList<>();
    Type.@Nullable Struct level = schema.struct();
    for (int i = 0; i < identifier.names.size(); i++) {
      String name = identifier.names.get(i);
      String known = level == null ? name : fold(level, name);
      path.add(known);
      int at = level == null ? -1 : level.indexOf(known);
      level =
          level != null && at >= 0 && level.fields().get(at).type() instanceof Type.Struct s
              ? s
              : null;
    }
    String joined = Schema.path(path);
    try {
      schema.resolve(joined);
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), node.getParserPosition(), e);
    }
    return joined;
  }

  /** The name as the schema has it, when only one differs by case. */
  static String fold(Type.Struct level, String name) {
    if (level.indexOf(name) >= 0) {
      return name;
    }
    List<String> alike =
        level.fields().stream().map(Field::name).filter(name::equalsIgnoreCase).toList();
    return alike.size() == 1 ? alike.get(0) : name;
  }

  Object literal(SqlNode node) {
    if (node instanceof SqlCall call && call.getKind() == SqlKind.MINUS_PREFIX) {
      if (literal(call.operand(0)) instanceof BigDecimal number) {
        return number.negate();
      }
    }
    if (!(node instanceof SqlLiteral literal)) {
      throw unsupported(node);
    }
    Object value = literal.getValue();
    if (value instanceof BigDecimal number) {
      return bounded(number, literal);
    }
    if (literal instanceof SqlUnknownLiteral unknown) {
      return dated(unknown);
    }
    if (value == null || value instanceof Boolean) {
      return value;
    }
    if (value instanceof NlsString string) {
      return string.getValue();
    }
    if (value instanceof BitString bits) {
      return bits.getAsByteArray();
    }
    throw unsupported(literal);
  }

  private BigDecimal bounded(BigDecimal number, SqlLiteral at) {
    try {
      return Decimals.bounded(number);
    } catch (InvalidInputException e) {
      throw text.wrong(e.getMessage() + ".", at.getParserPosition(), e);
    }
  }

  /** DATE, TIME and TIMESTAMP literals, which Calcite leaves as text until it validates. */
  private Object dated(SqlUnknownLiteral literal) {
    String content = literal.getValue();
    try {
      return switch (literal.tag) {
        case "DATE" -> LocalDate.parse(content);
        case "TIME" -> LocalTime.parse(content);
        case "TIMESTAMP" -> timestamp(content);
        default -> ValueText.parse(content, Types.INSTANT);
      };
    } catch (DateTimeException | YsteronException e) {
      throw text.wrong(
          "This is not a value of that type: " + e.getMessage() + ".",
          literal.getParserPosition(),
          e);
    }
  }

  /** With a zone behind it, as in {@code 12:00:00+00:00}, it is an instant. */
  private static Object timestamp(String content) {
    return content.matches("(?s).*(Z|[+-]\\d\\d:\\d\\d)")
        ? ValueText.parse(content, Types.INSTANT)
        : LocalDateTime.parse(content.replace(' ', 'T'));
  }

  /** The value of a literal in a column definition. */
  static Object literalIn(SqlNode node, String whole, int linesBefore) {
    SqlText at = new SqlText(whole, linesBefore);
    return new SqlCondition(at, Schema.of(Field.of("none", Types.BOOLEAN))).literal(node);
  }
}
