package org.ysteron.internal.typing;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Call;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Operator;

/** Types calls of operators and functions. */
final class Calls {
  private static final int MOST_STEPS = 200;

  private final Typing typing;

  Calls(Typing typing) {
    this.typing = typing;
  }

  Typed of(Call call) {
    Operator operator = call.operator();
    return switch (operator) {
      case ADD, SUBTRACT, MULTIPLY, DIVIDE, MOD -> arithmetic(call);
      case NEGATE, ABS -> same(call);
      case ROUND -> rounded(call);
      case FLOOR, CEIL -> whole(call);
      case POWER, SQRT, EXP, LN -> approximate(call);
      case CONCAT, UPPER, LOWER, TRIM, TRIM_LEADING, TRIM_TRAILING ->
          new Typed.Applied(operator, texts(call, call.arguments()), Types.text());
      case POSITION -> new Typed.Applied(operator, texts(call, call.arguments()), Types.INTEGER);
      case CHAR_LENGTH -> new Typed.Applied(operator, texts(call, call.arguments()), Types.INTEGER);
      case SUBSTRING -> textAndNumbers(call, 1);
      case OVERLAY -> textAndNumbers(call, 2);
      case COALESCE -> first(call);
      case NULLIF -> nullIf(call);
      case JSON_VALUE -> json(call, Types.text());
      case JSON_EXISTS -> json(call, Types.BOOLEAN);
      case CARDINALITY -> cardinality(call);
      case ARRAY -> list(call);
      case CURRENT_TIMESTAMP -> typing.now();
    };
  }

  private InvalidInputException wrong(Call call, List<Typed> arguments) {
    String types =
        String.join(" and ", arguments.stream().map(typed -> typed.type().toString()).toList());
    String hint = call.operator() == Operator.CONCAT ? " CAST what is not text to VARCHAR." : "";
    return new InvalidInputException(
        "%s is not defined for %s, as in %s.%s"
            .formatted(call.operator().sql(), types, call, hint));
  }

  private List<Typed> arguments(Call call) {
    return call.arguments().stream().map(typing::of).toList();
  }

  private Typed arithmetic(Call call) {
    List<Typed> arguments = new ArrayList<>(arguments(call));
    // NULL has the type of the other side.
    for (int i = 0; i < 2; i++) {
      if (isNull(arguments.get(i))) {
        Type other = arguments.get(1 - i).type();
        boolean number = other.isNumber() || other instanceof Type.Interval;
        arguments.set(i, new Typed.Constant(null, number ? other : Types.INTEGER));
        if (!number && isNull(arguments.get(1 - i))) {
          arguments.set(1 - i, new Typed.Constant(null, Types.INTEGER));
        }
      }
    }
    Type left = arguments.get(0).type();
    Type right = arguments.get(1).type();
    if (left.isNumber() && right.isNumber()) {
      if (call.operator() == Operator.MOD && !(Numbers.isExact(left) && Numbers.isExact(right))) {
        throw wrong(call, arguments);
      }
      Type type = Numbers.of(call.operator(), left, right);
      boolean approximate = type == Types.DOUBLE;
      return new Typed.Applied(
          call.operator(),
          approximate
              ? arguments.stream().map(part -> Typing.converted(part, Types.DOUBLE)).toList()
              : arguments,
          type);
    }
    return new Typed.Applied(
        call.operator(), arguments, ofTimes(call.operator(), left, right, call, arguments));
  }

  private static boolean isNull(Typed typed) {
    return typed instanceof Typed.Constant constant && constant.value() == null;
  }

  private Type ofTimes(Operator operator, Type left, Type right, Call call, List<Typed> arguments) {
    boolean adds = operator == Operator.ADD;
    if (adds || operator == Operator.SUBTRACT) {
      if (left.isTime() && moves(left, right)) {
        return left;
      }
      if (adds && right.isTime() && moves(right, left)) {
        return right;
      }
      if (!adds && left.isTime() && left.equals(right)) {
        return Type.Interval.MICROSECONDS;
      }
      if (left instanceof Type.Interval && left.equals(right)) {
        return left;
      }
    }
    if (operator == Operator.MULTIPLY) {
      if (left instanceof Type.Interval && Numbers.isWhole(right)) {
        return left;
      }
      if (right instanceof Type.Interval && Numbers.isWhole(left)) {
        return right;
      }
    }
    throw wrong(call, arguments);
  }

  private static boolean moves(Type time, Type interval) {
    return interval == Type.Interval.MICROSECONDS
        || (interval == Type.Interval.MONTHS && time != Types.TIME);
  }

  private Typed same(Call call) {
    List<Typed> arguments = arguments(call);
    Type type = arguments.get(0).type();
    if (isNull(arguments.get(0))) {
      return new Typed.Constant(null, Types.INTEGER);
    }
    if (!type.isNumber() && !(type instanceof Type.Interval)) {
      throw wrong(call, arguments);
    }
    if (type == Types.REAL) {
      return new Typed.Applied(
          call.operator(), List.of(Typing.converted(arguments.get(0), Types.DOUBLE)), Types.DOUBLE);
    }
    return new Typed.Applied(call.operator(), arguments, type);
  }

  private Typed number(Call call, int at) {
    List<Typed> arguments = arguments(call);
    Typed number = arguments.get(at);
    if (isNull(number)) {
      return new Typed.Constant(null, Types.INTEGER);
    }
    if (!number.type().isNumber()) {
      throw wrong(call, arguments);
    }
    return number.type() == Types.REAL ? Typing.converted(number, Types.DOUBLE) : number;
  }

  private Typed rounded(Call call) {
    Typed number = number(call, 0);
    Typed places =
        call.arguments().size() > 1 ? number(call, 1) : new Typed.Constant(0, Types.INTEGER);
    if (!Numbers.isWhole(places.type())) {
      throw wrong(call, arguments(call));
    }
    Type type = number.type();
    if (type instanceof Type.Decimal decimal) {
      boolean known = places instanceof Typed.Constant constant && constant.value() != null;
      int most = known ? ((Number) ((Typed.Constant) places).value()).intValue() : decimal.scale();
      type = Numbers.rounded(type, most);
    }
    return new Typed.Applied(Operator.ROUND, List.of(number, places), type);
  }

  private Typed whole(Call call) {
    Typed number = number(call, 0);
    return new Typed.Applied(call.operator(), List.of(number), Numbers.rounded(number.type(), 0));
  }

  private Typed approximate(Call call) {
    List<Typed> arguments = new ArrayList<>();
    for (int i = 0; i < call.arguments().size(); i++) {
      arguments.add(Typing.converted(number(call, i), Types.DOUBLE));
    }
    return new Typed.Applied(call.operator(), arguments, Types.DOUBLE);
  }

  private List<Typed> texts(Call call, List<Expression> expressions) {
    List<Typed> texts = new ArrayList<>();
    for (Expression expression : expressions) {
      Typed typed = typing.of(expression);
      if (!typed.type().isText()) {
        throw wrong(call, arguments(call));
      }
      texts.add(typed);
    }
    return texts;
  }

  private Typed textAndNumbers(Call call, int texts) {
    List<Typed> arguments = new ArrayList<>(texts(call, call.arguments().subList(0, texts)));
    for (int i = texts; i < call.arguments().size(); i++) {
      Typed number = number(call, i);
      if (!Numbers.isWhole(number.type())) {
        throw wrong(call, arguments(call));
      }
      arguments.add(number);
    }
    return new Typed.Applied(call.operator(), arguments, Types.text());
  }

  private Typed first(Call call) {
    Type type = typing.common(call.arguments(), "values of a COALESCE");
    return new Typed.First(
        call.arguments().stream().map(argument -> typing.as(argument, type)).toList(), type);
  }

  private Typed list(Call call) {
    Type type = typing.common(call.arguments(), "elements of an ARRAY");
    return new Typed.Applied(
        call.operator(),
        call.arguments().stream().map(argument -> typing.as(argument, type)).toList(),
        Types.listOf(type));
  }

  /** NULLIF(a, b) is CASE WHEN a = b THEN NULL ELSE a END. */
  private Typed nullIf(Call call) {
    Expression value = call.arguments().get(0);
    TypedTest equal =
        typing.inner(
            new Condition.Compare(value, Condition.Comparison.EQUAL, call.arguments().get(1)));
    Typed typed = typing.of(value);
    return new Typed.Choice(
        List.of(equal), List.of(new Typed.Constant(null, typed.type())), typed, typed.type());
  }

  private Typed json(Call call, Type type) {
    List<Typed> arguments = texts(call, call.arguments());
    if (!(arguments.get(1) instanceof Typed.Constant path) || path.value() == null) {
      throw new InvalidInputException(
          "%s takes its path as a literal, as in '$.health.battery'."
              .formatted(call.operator().sql()));
    }
    List<Object> steps = JsonPath.parse((String) path.value());
    if (steps.size() > MOST_STEPS) {
      throw new InvalidInputException("A JSON path has more than %d steps.".formatted(MOST_STEPS));
    }
    return new Typed.Applied(call.operator(), arguments, type);
  }

  private Typed cardinality(Call call) {
    List<Typed> arguments = arguments(call);
    Type type = arguments.get(0).type();
    if (!(type instanceof Type.ListOf) && !(type instanceof Type.MapOf)) {
      throw wrong(call, arguments);
    }
    return new Typed.Applied(call.operator(), arguments, Types.INTEGER);
  }
}
