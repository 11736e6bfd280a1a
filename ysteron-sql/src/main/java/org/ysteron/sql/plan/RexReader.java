package org.ysteron.sql.plan;

import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.function.Function;
import org.apache.calcite.rel.core.CorrelationId;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexCall;
import org.apache.calcite.rex.RexCorrelVariable;
import org.apache.calcite.rex.RexDynamicParam;
import org.apache.calcite.rex.RexFieldAccess;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.fun.SqlTrimFunction;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Call;
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Element;
import org.ysteron.expr.Expression;
import org.ysteron.expr.FieldOf;
import org.ysteron.expr.Literal;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.typing.Typing;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.text.TypedValue;

/** Planned expressions as those of a lake. For one query. */
final class RexReader {
  private final RexBuilder builder;
  private final Literal now;
  private final List<@Nullable Object> parameters;
  private final Function<Integer, Expression> inputs;
  private final Map<CorrelationId, OuterRow> outer;

  /** A row of a relation outside: the values of its fields, and its columns as a batch. */
  record OuterRow(List<Expression> fields, Optional<Step> row) {}

  /**
   * Expressions on the fields of some input.
   *
   * @param now what CURRENT_TIMESTAMP is
   * @param parameters what stands for the question marks
   * @param inputs the fields by their number
   */
  RexReader(
      RexBuilder builder,
      Literal now,
      List<@Nullable Object> parameters,
      Function<Integer, Expression> inputs) {
    this(builder, now, parameters, inputs, Map.of());
  }

  private RexReader(
      RexBuilder builder,
      Literal now,
      List<@Nullable Object> parameters,
      Function<Integer, Expression> inputs,
      Map<CorrelationId, OuterRow> outer) {
    this.outer = outer;
    this.builder = builder;
    this.now = now;
    this.parameters = parameters;
    this.inputs = inputs;
  }

  /** The same with other fields. */
  RexReader on(List<Expression> fields) {
    return new RexReader(builder, now, parameters, fields::get, outer);
  }

  /** The same below a row of a relation outside. */
  RexReader under(CorrelationId id, OuterRow row) {
    Map<CorrelationId, OuterRow> rows = new HashMap<>(outer);
    rows.put(id, row);
    return new RexReader(builder, now, parameters, inputs, rows);
  }

  /** The row outside that is known by an id. */
  Optional<OuterRow> outer(CorrelationId id) {
    return Optional.ofNullable(outer.get(id));
  }

  Expression expression(RexNode node) {
    if (node instanceof RexInputRef input) {
      return inputs.apply(input.getIndex());
    }
    if (node instanceof RexLiteral literal) {
      return RexLiterals.of(literal);
    }
    if (node instanceof RexDynamicParam parameter) {
      return parameter(parameter);
    }
    if (node instanceof RexFieldAccess access
        && access.getReferenceExpr() instanceof RexCorrelVariable variable
        && outer.containsKey(variable.id)) {
      return outer.get(variable.id).fields().get(access.getField().getIndex());
    }
    if (node instanceof RexFieldAccess access) {
      return new FieldOf(expression(access.getReferenceExpr()), access.getField().getName());
    }
    if (node instanceof RexCall call) {
      return call(call);
    }
    throw unknown(node);
  }

  private Expression parameter(RexDynamicParam parameter) {
    if (parameter.getIndex() >= parameters.size()) {
      throw new InvalidInputException(
          "The query has a parameter ? number %d, and %d values were given."
              .formatted(parameter.getIndex() + 1, parameters.size()));
    }
    Type type = RelTypes.of(parameter.getType());
    Object given = parameters.get(parameter.getIndex());
    Object value = given instanceof TypedValue typed ? typed.as(type) : given;
    return value == null || value instanceof String || !type.isText()
        ? new Cast(new Literal(value), type)
        : new Literal(value);
  }

  Condition condition(RexNode node) {
    Expression expression = expression(node);
    return expression instanceof Condition condition ? condition : new Condition.Holds(expression);
  }

  private static InvalidInputException unknown(RexNode node) {
    return new InvalidInputException("%s cannot be computed here yet.".formatted(node));
  }

  private List<Expression> arguments(RexCall call) {
    return call.getOperands().stream().map(this::expression).toList();
  }

  private Expression call(RexCall call) {
    List<RexNode> operands = call.getOperands();
    return switch (call.getKind()) {
      case AND -> new Condition.And(operands.stream().map(this::condition).toList());
      case OR -> new Condition.Or(operands.stream().map(this::condition).toList());
      case NOT -> new Condition.Not(condition(operands.get(0)));
      case EQUALS -> compared(call, Condition.Comparison.EQUAL);
      case NOT_EQUALS -> compared(call, Condition.Comparison.NOT_EQUAL);
      case LESS_THAN -> compared(call, Condition.Comparison.LESS);
      case LESS_THAN_OR_EQUAL -> compared(call, Condition.Comparison.AT_MOST);
      case GREATER_THAN -> compared(call, Condition.Comparison.GREATER);
      case GREATER_THAN_OR_EQUAL -> compared(call, Condition.Comparison.AT_LEAST);
      case IS_NULL -> new Condition.IsNull(expression(operands.get(0)));
      case IS_NOT_NULL -> new Condition.Not(new Condition.IsNull(expression(operands.get(0))));
      case IS_DISTINCT_FROM ->
          new Condition.Distinct(expression(operands.get(0)), expression(operands.get(1)));
      case IS_NOT_DISTINCT_FROM ->
          new Condition.Not(
              new Condition.Distinct(expression(operands.get(0)), expression(operands.get(1))));
      case IS_TRUE -> known(condition(operands.get(0)));
      case IS_NOT_TRUE -> new Condition.Not(known(condition(operands.get(0))));
      case IS_FALSE -> known(new Condition.Not(condition(operands.get(0))));
      case IS_NOT_FALSE -> new Condition.Not(known(new Condition.Not(condition(operands.get(0)))));
      case LIKE -> like(call);
      case SEARCH -> expression(RexUtil.expandSearch(builder, null, call));
      case CAST -> new Cast(expression(operands.get(0)), RelTypes.of(call.getType()));
      case CASE -> choice(call);
      case COALESCE -> new Call(Operator.COALESCE, arguments(call));
      case ITEM -> new Element(expression(operands.get(0)), expression(operands.get(1)));
      case PLUS -> new Call(Operator.ADD, arguments(call));
      case MINUS -> new Call(Operator.SUBTRACT, arguments(call).subList(0, 2));
      case TIMES -> new Call(Operator.MULTIPLY, arguments(call));
      case DIVIDE -> new Call(Operator.DIVIDE, arguments(call));
      case MOD -> new Call(Operator.MOD, arguments(call));
      case MINUS_PREFIX -> new Call(Operator.NEGATE, arguments(call));
      case PLUS_PREFIX, REINTERPRET -> expression(operands.get(0));
      case FLOOR -> rounded(call, Operator.FLOOR, TimePart.Kind.FLOOR);
      case CEIL -> rounded(call, Operator.CEIL, TimePart.Kind.CEIL);
      case ARRAY_VALUE_CONSTRUCTOR -> new Call(Operator.ARRAY, arguments(call));
      case EXTRACT ->
          new TimePart(TimePart.Kind.EXTRACT, unit(operands.get(0)), expression(operands.get(1)));
      case TRIM -> trim(call);
      case POSITION -> new Call(Operator.POSITION, arguments(call));
      default -> named(call);
    };
  }

  private Expression compared(RexCall call, Condition.Comparison comparison) {
    return new Condition.Compare(
        expression(call.getOperands().get(0)), comparison, expression(call.getOperands().get(1)));
  }

  /** Whether a condition is true, and not unknown. */
  private static Condition known(Condition condition) {
    return new Condition.And(
        List.of(new Condition.Not(new Condition.IsNull(condition)), condition));
  }

  private Expression like(RexCall call) {
    List<RexNode> operands = call.getOperands();
    List<@Nullable Object> constants = new ArrayList<>();
    for (RexNode part : operands.subList(1, operands.size())) {
      Expression expression = expression(part);
      if (!expression.columns().isEmpty()) {
        throw new InvalidInputException(
            "LIKE takes its pattern as a constant; %s is none.".formatted(part));
      }
      constants.add(constant(expression));
    }
    if (constants.contains(null)) {
      return new Cast(new Literal(null), Types.BOOLEAN);
    }
    OptionalInt escape = OptionalInt.empty();
    if (constants.size() > 1) {
      String character = String.valueOf(constants.get(1));
      if (character.codePointCount(0, character.length()) != 1) {
        throw new InvalidInputException(
            "ESCAPE takes one character; '%s' is none.".formatted(character));
      }
      escape = OptionalInt.of(character.codePointAt(0));
    }
    return new Condition.Like(
        expression(operands.get(0)), String.valueOf(constants.get(0)), escape);
  }

  /** The value of an expression without columns. */
  private @Nullable Object constant(Expression expression) {
    if (expression instanceof Literal literal) {
      return literal.value();
    }
    Optional<Instant> time = Optional.ofNullable((Instant) now.value());
    Typing typing = new Typing(Schema.NO_COLUMNS, Optional.empty(), time);
    return new Computation(typing.type(expression))
        .values(new Batch(Schema.NO_COLUMNS.struct(), 1, List.of()))
        .get(0);
  }

  private Expression choice(RexCall call) {
    List<RexNode> operands = call.getOperands();
    List<Condition> conditions = new ArrayList<>();
    List<Expression> values = new ArrayList<>();
    for (int i = 0; i + 1 < operands.size(); i += 2) {
      conditions.add(condition(operands.get(i)));
      values.add(expression(operands.get(i + 1)));
    }
    return new Case(conditions, values, expression(operands.get(operands.size() - 1)));
  }

  private Expression rounded(RexCall call, Operator operator, TimePart.Kind kind) {
    List<RexNode> operands = call.getOperands();
    return operands.size() == 1
        ? new Call(operator, arguments(call))
        : new TimePart(kind, unit(operands.get(1)), expression(operands.get(0)));
  }

  private static TimeUnit unit(RexNode flag) {
    Object value = ((RexLiteral) flag).getValue();
    try {
      return TimeUnit.valueOf(String.valueOf(value));
    } catch (IllegalArgumentException e) {
      throw new InvalidInputException(
          "%s is no unit of times here; there are %s.".formatted(value, List.of(TimeUnit.values())),
          e);
    }
  }

  private Expression trim(RexCall call) {
    List<RexNode> operands = call.getOperands();
    SqlTrimFunction.Flag flag = (SqlTrimFunction.Flag) ((RexLiteral) operands.get(0)).getValue();
    Operator operator =
        switch (flag) {
          case BOTH -> Operator.TRIM;
          case LEADING -> Operator.TRIM_LEADING;
          case TRAILING -> Operator.TRIM_TRAILING;
        };
    return new Call(operator, List.of(expression(operands.get(2)), expression(operands.get(1))));
  }

  private Expression named(RexCall call) {
    String name = call.getOperator().getName().toUpperCase(Locale.ROOT);
    if (call.getKind() == SqlKind.OTHER && name.equals("||")) {
      return new Call(Operator.CONCAT, arguments(call));
    }
    return switch (name) {
      case "ABS",
          "POWER",
          "SQRT",
          "EXP",
          "LN",
          "UPPER",
          "LOWER",
          "SUBSTRING",
          "OVERLAY",
          "CARDINALITY",
          "ROUND" ->
          new Call(Operator.valueOf(name), arguments(call));
      case "JSON_VALUE", "JSON_EXISTS" ->
          new Call(Operator.valueOf(name), arguments(call).subList(0, 2));
      case "CHAR_LENGTH", "CHARACTER_LENGTH" -> new Call(Operator.CHAR_LENGTH, arguments(call));
      case "CURRENT_TIMESTAMP" -> now;
      case "LOCALTIMESTAMP" -> new Cast(now, Types.TIMESTAMP);
      case "CURRENT_DATE" -> new Cast(now, Types.DATE);
      default -> throw unknown(call);
    };
  }

  /** A number of rows, as LIMIT and OFFSET have it. */
  long rows(RexNode node) {
    Expression value = expression(node);
    while (value instanceof Cast cast) {
      value = cast.value();
    }
    if (value instanceof Literal literal && literal.value() instanceof Number number) {
      return new BigDecimal(number.toString()).longValueExact();
    }
    throw new InvalidInputException("%s is no number of rows.".formatted(node));
  }
}
