package org.ysteron.sql.text;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlIntervalLiteral;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlNumericLiteral;
import org.apache.calcite.sql.SqlUnknownLiteral;
import org.apache.calcite.sql.fun.SqlBetweenOperator;
import org.apache.calcite.sql.fun.SqlCase;
import org.apache.calcite.sql.fun.SqlLikeOperator;
import org.apache.calcite.sql.parser.SqlParserPos;
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
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.typing.Typing;

/**
 * Turns parsed SQL into expressions and conditions on a schema, and finds the place of what is
 * wrong. Names are compared exactly, or without regard to case when only one column fits. For one
 * thread.
 */
final class ExpressionReader {
  private static final String SOURCE = "source";

  private final SqlText text;
  private final Schema table;
  private final Optional<Schema> source;
  private final IdentityHashMap<Expression, SqlParserPos> places = new IdentityHashMap<>();

  ExpressionReader(SqlText text, Schema table, Optional<Schema> source) {
    this.text = text;
    this.table = table;
    this.source = source;
  }

  /** A value, with all its types checked. */
  Expression checkedValue(SqlNode node) {
    Expression value = value(node);
    check(typing -> typing.type(value), node);
    return value;
  }

  /** A value for a column, with all its types checked. */
  Expression checkedValue(SqlNode node, Type wanted) {
    Expression value = value(node);
    check(typing -> typing.type(value, wanted), node);
    return value;
  }

  private interface Check {
    void with(Typing typing);
  }

  /** Has something typed; what is wrong is told with its place. */
  private void check(Check check, SqlNode node) {
    Typing typing = new Typing(table, source, Optional.of(Instant.EPOCH));
    try {
      check.with(typing);
    } catch (YsteronException e) {
      SqlParserPos at = typing.wrong().map(places::get).orElse(node.getParserPosition());
      throw text.wrong(e.getMessage(), at == null ? node.getParserPosition() : at, e);
    }
  }

  /** A value. */
  Expression value(SqlNode node) {
    Expression value = unplaced(node);
    places.put(value, node.getParserPosition());
    return value;
  }

  private Expression unplaced(SqlNode node) {
    if (node instanceof SqlIdentifier identifier) {
      return column(identifier);
    }
    if (node instanceof SqlIntervalLiteral interval) {
      return new Literal(Intervals.amount(interval, text));
    }
    if (node instanceof SqlNumericLiteral number) {
      return new Literal(typed(number, bounded(number.bigDecimalValue(), number)));
    }
    if (!(node instanceof SqlCall call)) {
      return new Literal(literal(node));
    }
    if (call.getKind() == SqlKind.MINUS_PREFIX
        && call.operand(0) instanceof SqlNumericLiteral number
        && number.bigDecimalValue().signum() >= 0) {
      return new Literal(typed(number, bounded(number.bigDecimalValue(), number).negate()));
    }
    if (isTest(call)) {
      return condition(call);
    }
    if (call instanceof SqlCase choice) {
      return choice(choice);
    }
    if (call.getKind() == SqlKind.CAST) {
      return cast(call);
    }
    try {
      return Functions.of(call, this)
          .orElseThrow(() -> unsupported(call, "This is not supported here"));
    } catch (SqlTextException e) {
      throw e;
    } catch (InvalidInputException e) {
      throw text.wrong(e.getMessage(), call.getParserPosition(), e);
    }
  }

  SqlTextException unsupported(SqlNode node, String what) {
    return text.wrong(
        "%s: %s. docs/expressions.md lists what there is."
            .formatted(
                what,
                node instanceof SqlCall call ? call.getOperator().getName() : node.toString()),
        node.getParserPosition(),
        null);
  }

  /** The smallest type that a number has: INTEGER, BIGINT, DECIMAL; with an exponent, a double. */
  private static Object typed(SqlNumericLiteral literal, BigDecimal number) {
    if (!literal.isExact() || literal.toValue().indexOf('E') >= 0) {
      return number.doubleValue();
    }
    if (number.scale() == 0 && number.unscaledValue().bitLength() < Long.SIZE) {
      long whole = number.longValueExact();
      return whole == (int) whole ? (Object) (int) whole : (Object) whole;
    }
    return number;
  }

  Expression column(SqlIdentifier identifier) {
    List<String> names = identifier.names;
    if (names.size() == 1
        && names.get(0).equalsIgnoreCase("CURRENT_TIMESTAMP")
        && !identifier.isComponentQuoted(0)) {
      return Expression.now();
    }
    if (table.columns().isEmpty()) {
      throw text.wrong("Columns cannot be used here.", identifier.getParserPosition(), null);
    }
    boolean given = source.isPresent() && names.size() > 1 && names.get(0).equals(SOURCE);
    Schema schema = given ? source.get() : table;
    List<String> path = new ArrayList<>();
    Type.@Nullable Struct level = schema.struct();
    for (String name : names.subList(given ? 1 : 0, names.size())) {
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
      throw text.wrong(e.getMessage(), identifier.getParserPosition(), e);
    }
    return given ? Column.ofSource(joined) : new Column(joined);
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

  private Expression choice(SqlCase choice) {
    Case made = null;
    Expression subject = choice.getValueOperand() == null ? null : value(choice.getValueOperand());
    for (int i = 0; i < choice.getWhenOperands().size(); i++) {
      SqlNode when = choice.getWhenOperands().get(i);
      Condition condition =
          subject == null
              ? condition(when)
              : new Condition.Compare(subject, Condition.Comparison.EQUAL, value(when));
      Expression then = value(choice.getThenOperands().get(i));
      made = made == null ? Expression.when(condition, then) : made.when(condition, then);
    }
    if (made == null) {
      throw unsupported(choice, "A CASE needs a WHEN");
    }
    return made.otherwise(value(choice.getElseOperand()));
  }

  private Expression cast(SqlCall call) {
    Type type = SqlColumns.type((SqlDataTypeSpec) call.operand(1), text);
    Expression value = value(call.operand(0));
    if (type == Types.BIGINT && value instanceof Literal literal) {
      if (literal.value() instanceof Integer number) {
        return new Literal(number.longValue());
      }
      if (literal.value() instanceof Long) {
        return literal;
      }
    }
    return new Cast(value, type);
  }

  private static boolean isTest(SqlCall call) {
    return switch (call.getKind()) {
      case AND,
          OR,
          NOT,
          EQUALS,
          NOT_EQUALS,
          LESS_THAN,
          LESS_THAN_OR_EQUAL,
          GREATER_THAN,
          GREATER_THAN_OR_EQUAL,
          IS_NULL,
          IS_NOT_NULL,
          IS_DISTINCT_FROM,
          IS_NOT_DISTINCT_FROM,
          IS_TRUE,
          IS_NOT_TRUE,
          IS_FALSE,
          IS_NOT_FALSE,
          IS_UNKNOWN,
          IN,
          NOT_IN,
          BETWEEN,
          LIKE ->
          true;
      default -> false;
    };
  }

  /** A condition. */
  Condition condition(SqlNode node) {
    Condition condition =
        switch (node.getKind()) {
          case AND -> new Condition.And(all(node)).simplified();
          case OR -> new Condition.Or(all(node)).simplified();
          case NOT -> condition(((SqlCall) node).operand(0)).not();
          default -> test(node);
        };
    place(condition, node.getParserPosition());
    return condition;
  }

  /** Notes where a condition stands, and what was made of it. */
  private void place(Condition condition, SqlParserPos at) {
    if (places.putIfAbsent(condition, at) == null) {
      for (Expression part : condition.parts()) {
        if (part instanceof Condition inner) {
          place(inner, at);
        }
      }
    }
  }

  private List<Condition> all(SqlNode node) {
    return chain(node).stream().map(this::condition).toList();
  }

  /** The parts of {@code a OR b OR c}, of which the parser makes {@code (a OR b) OR c}. */
  private static List<SqlNode> chain(SqlNode node) {
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

  private Condition test(SqlNode node) {
    if (node instanceof SqlLiteral literal && literal(literal) instanceof Boolean isTrue) {
      return isTrue ? Condition.all() : new Condition.Or(List.of());
    }
    if (!(node instanceof SqlCall call) || !isTest(call)) {
      Expression value = value(node);
      return value instanceof Column column && column.input() == Column.Input.TABLE
          ? column.equalTo(true)
          : new Condition.Holds(value);
    }
    return switch (call.getKind()) {
      case EQUALS -> compare(call, Condition.Comparison.EQUAL);
      case NOT_EQUALS -> compare(call, Condition.Comparison.NOT_EQUAL);
      case LESS_THAN -> compare(call, Condition.Comparison.LESS);
      case LESS_THAN_OR_EQUAL -> compare(call, Condition.Comparison.AT_MOST);
      case GREATER_THAN -> compare(call, Condition.Comparison.GREATER);
      case GREATER_THAN_OR_EQUAL -> compare(call, Condition.Comparison.AT_LEAST);
      case IS_NULL, IS_UNKNOWN -> value(call.operand(0)).isNull();
      case IS_NOT_NULL -> value(call.operand(0)).isNotNull();
      case IS_DISTINCT_FROM -> distinct(call);
      case IS_NOT_DISTINCT_FROM -> distinct(call).not();
      case IS_TRUE -> value(call.operand(0)).distinctFrom(true).not();
      case IS_NOT_TRUE -> value(call.operand(0)).distinctFrom(true);
      case IS_FALSE -> value(call.operand(0)).distinctFrom(false).not();
      case IS_NOT_FALSE -> value(call.operand(0)).distinctFrom(false);
      case IN -> in(call);
      case NOT_IN -> in(call).not();
      case BETWEEN -> between((SqlBasicCall) call);
      default -> like((SqlBasicCall) call);
    };
  }

  /** An operand of a comparison; a literal keeps the form in which it is written. */
  private Expression compared(SqlNode node, SqlNode other) {
    if (other instanceof SqlIdentifier && isLiteral(node)) {
      Expression literal = new Literal(literal(node));
      places.put(literal, node.getParserPosition());
      return literal;
    }
    return value(node);
  }

  static boolean isLiteral(SqlNode node) {
    boolean negative =
        node.getKind() == SqlKind.MINUS_PREFIX
            && ((SqlCall) node).operand(0) instanceof SqlNumericLiteral;
    return negative || (node instanceof SqlLiteral && !(node instanceof SqlIntervalLiteral));
  }

  private Condition compare(SqlCall call, Condition.Comparison comparison) {
    Expression left = compared(call.operand(0), call.operand(1));
    Expression right = compared(call.operand(1), call.operand(0));
    return left instanceof Literal && right instanceof Column
        ? new Condition.Compare(right, comparison.turned(), left)
        : new Condition.Compare(left, comparison, right);
  }

  private Condition distinct(SqlCall call) {
    Expression left = compared(call.operand(0), call.operand(1));
    Expression right = compared(call.operand(1), call.operand(0));
    return left instanceof Literal && right instanceof Column
        ? new Condition.Distinct(right, left)
        : new Condition.Distinct(left, right);
  }

  private Condition in(SqlCall call) {
    if (!(call.operand(1) instanceof SqlNodeList list)) {
      throw unsupported(call, "IN takes a list of values here, which is not supported");
    }
    SqlNode value = call.operand(0);
    List<Expression> options = new ArrayList<>();
    for (SqlNode option : list) {
      options.add(compared(option, value));
    }
    return new Condition.In(value(value), options);
  }

  private Condition between(SqlBasicCall call) {
    SqlBetweenOperator operator = (SqlBetweenOperator) call.getOperator();
    SqlNode of = call.operand(0);
    Expression value = value(of);
    Expression low = compared(call.operand(1), of);
    Expression high = compared(call.operand(2), of);
    Condition between = value.between(low, high);
    if (operator.flag == SqlBetweenOperator.Flag.SYMMETRIC) {
      between = between.or(value.between(high, low));
    }
    return operator.isNegated() ? between.not() : between;
  }

  private Condition like(SqlBasicCall call) {
    if (!isLiteral(call.operand(1)) || !(literal(call.operand(1)) instanceof String pattern)) {
      throw text.wrong(
          "LIKE takes its pattern as a literal, as in LIKE 'ORR-%'.",
          call.operand(1).getParserPosition(), null);
    }
    Expression value = value(call.operand(0));
    OptionalInt escape = escape(call);
    Condition.Like like;
    try {
      like = new Condition.Like(value, pattern, escape);
    } catch (InvalidInputException e) {
      throw text.wrong(e.getMessage(), call.operand(1).getParserPosition(), e);
    }
    Condition condition = simplest(like);
    return ((SqlLikeOperator) call.getOperator()).isNegated() ? condition.not() : condition;
  }

  /** A pattern of one text, or of all that start with one, in its usual form. */
  private Condition simplest(Condition.Like like) {
    boolean ofColumn = like.value() instanceof Column;
    if (!ofColumn || new Typing(table, source).type(like.value()).type() == Types.JSON) {
      return like; // documents are not compared
    }
    return like.onlyText()
        .<Condition>map(like.value()::equalTo)
        .orElseGet(() -> like.onlyPrefix().map(like.value()::startsWith).orElse(like));
  }

  private OptionalInt escape(SqlBasicCall call) {
    if (call.operandCount() < 3) {
      return OptionalInt.empty();
    }
    if (literal(call.operand(2)) instanceof String escape
        && escape.codePointCount(0, escape.length()) == 1) {
      return OptionalInt.of(escape.codePointAt(0));
    }
    throw text.wrong(
        "ESCAPE takes one character, as in ESCAPE '!'.", call.operand(2).getParserPosition(), null);
  }

  /** The value of a literal as it is written: numbers are exact. */
  @Nullable Object literal(SqlNode node) {
    if (node instanceof SqlCall call && call.getKind() == SqlKind.MINUS_PREFIX) {
      if (literal(call.operand(0)) instanceof BigDecimal number) {
        return number.negate();
      }
    }
    if (!(node instanceof SqlLiteral literal)) {
      throw unsupported(node, "Only a literal is supported here");
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
    throw unsupported(literal, "This literal is not supported");
  }

  private BigDecimal bounded(@Nullable BigDecimal number, SqlLiteral at) {
    try {
      return Decimals.bounded(number == null ? BigDecimal.ZERO : number);
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

  /** Checks a condition, with all its types. */
  void check(Condition condition, SqlNode node) {
    check(typing -> typing.type(condition), node);
  }

  /** Checks a test of a table's columns as it is bound; what is wrong is told with its place. */
  void checkBound(Condition part, SqlNode node) {
    Condition fixed = part.at(Instant.EPOCH); // which instant it is, is seen when it runs
    try {
      Filter.bind(fixed, table);
    } catch (YsteronException e) {
      Typing typing = new Typing(table);
      Optional<Expression> wrong;
      try {
        typing.type(fixed);
        wrong = Optional.of(part);
      } catch (YsteronException typed) {
        wrong = typing.wrong();
      }
      SqlParserPos at =
          wrong
              .map(places::get)
              .or(() -> Optional.ofNullable(places.get(part)))
              .orElse(node.getParserPosition());
      throw text.wrong(e.getMessage(), at, e);
    }
  }
}
