package org.ysteron.internal.evaluate;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.internal.typing.JsonPath;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/**
 * Computes typed expressions one row after the other, with boxed values and the JDK's own numbers,
 * texts and dates: what kernels must agree with. All parts are computed; none is left out because
 * another one decides.
 */
public final class SlowEvaluator {
  /** There is no value: ISO raises an exception. */
  public static final class Failure extends RuntimeException {
    private static final long serialVersionUID = 1L;

    Failure(String message) {
      super(message);
    }
  }

  private final Row row;

  public SlowEvaluator(Row row) {
    this.row = row;
  }

  Object value(Typed typed) {
    try {
      return unsafe(typed);
    } catch (ArithmeticException | java.time.DateTimeException e) {
      throw new Failure(e.getMessage());
    }
  }

  private Object unsafe(Typed typed) {
    if (typed instanceof Typed.Constant constant) {
      return constant.value();
    }
    if (typed instanceof Typed.OfColumn column) {
      Object value = row;
      for (var step : column.along()) {
        value = value == null ? null : ((Row) value).get(step.name());
      }
      return value;
    }
    if (typed instanceof Typed.Truth truth) {
      return test(truth.test());
    }
    if (typed instanceof Typed.Choice choice) {
      Object chosen = value(choice.otherwise());
      for (int i = choice.tests().size() - 1; i >= 0; i--) {
        Object then = value(choice.values().get(i));
        chosen = Boolean.TRUE.equals(test(choice.tests().get(i))) ? then : chosen;
      }
      return chosen;
    }
    List<Object> parts = new ArrayList<>();
    typed.parts().forEach(part -> parts.add(value(part)));
    if (typed instanceof Typed.First) {
      return parts.stream().filter(java.util.Objects::nonNull).findFirst().orElse(null);
    }
    if (parts.contains(null)) {
      return null;
    }
    if (typed instanceof Typed.ElementOf) {
      return element(parts.get(0), parts.get(1));
    }
    if (typed instanceof Typed.InStruct field) {
      return ((Row) parts.get(0)).get(field.position());
    }
    if (typed instanceof Typed.OfTime part) {
      return part.kind() == TimePart.Kind.EXTRACT
          ? SlowTimes.extract(parts.get(0), part.unit())
          : SlowTimes.rounded(parts.get(0), part);
    }
    if (typed instanceof Typed.Converted converted) {
      return cast(parts.get(0), converted.of().type(), typed.type());
    }
    return call((Typed.Applied) typed, parts);
  }

  private static Object element(Object of, Object key) {
    if (of instanceof Map<?, ?> map) {
      return map.get(key);
    }
    List<?> list = (List<?>) of;
    long at = ((Number) key).longValue();
    if (at < 1 || at > list.size()) {
      throw new Failure("no element");
    }
    return list.get((int) at - 1);
  }

  private static BigDecimal exact(Object value) {
    return new BigDecimal(value.toString());
  }

  /** A number of a type's class, which must have it. */
  private static Object held(BigDecimal number, Type type) {
    if (type == Types.INTEGER) {
      return number.intValueExact();
    }
    if (type == Types.BIGINT) {
      return number.longValueExact();
    }
    Type.Decimal decimal = (Type.Decimal) type;
    BigDecimal scaled = number.setScale(decimal.scale(), RoundingMode.UNNECESSARY);
    if (scaled.precision() > decimal.precision()) {
      throw new Failure("does not fit");
    }
    return scaled;
  }

  private static double finite(double result, double... given) {
    for (double each : given) {
      if (!Double.isFinite(each)) {
        return result;
      }
    }
    if (!Double.isFinite(result)) {
      throw new Failure("out of range");
    }
    return result;
  }

  private static Object call(Typed.Applied call, List<Object> at) {
    Type type = call.type();
    Object one = at.isEmpty() ? null : at.get(0);
    Object two = at.size() > 1 ? at.get(1) : null;
    return switch (call.operator()) {
      case ADD, SUBTRACT, MULTIPLY, DIVIDE, MOD -> arithmetic(call, one, two);
      case NEGATE ->
          one instanceof Double d
              ? (Object) (-d)
              : one instanceof Period p
                  ? p.negated()
                  : one instanceof Duration t
                      ? SlowTimes.micros(t.negated())
                      : held(exact(one).negate(), type);
      case ABS ->
          one instanceof Double d
              ? (Object) Math.abs(d)
              : one instanceof Period p
                  ? (p.isNegative() ? p.negated() : p)
                  : one instanceof Duration t ? t.abs() : held(exact(one).abs(), type);
      case ROUND -> round(one, ((Number) two).longValue(), type);
      case FLOOR -> whole(one, RoundingMode.FLOOR, type);
      case CEIL -> whole(one, RoundingMode.CEILING, type);
      case SQRT -> {
        double x = (Double) one;
        if (x < 0) {
          throw new Failure("negative");
        }
        yield Math.sqrt(x);
      }
      case EXP -> finite(StrictMath.exp((Double) one), (Double) one);
      case LN -> {
        if ((Double) one <= 0) {
          throw new Failure("not positive");
        }
        yield StrictMath.log((Double) one);
      }
      case POWER -> {
        double x = (Double) one;
        double y = (Double) two;
        if (x == 0 && y < 0 && Double.isFinite(y)) {
          throw new Failure("zero to a negative power");
        }
        double result = x == 0 && y < 0 ? Double.NaN : StrictMath.pow(x, y);
        yield finite(result, x, y);
      }
      case CONCAT -> one.toString() + two;
      case UPPER -> characters((String) one, Character::toUpperCase);
      case LOWER -> characters((String) one, Character::toLowerCase);
      case TRIM, TRIM_LEADING, TRIM_TRAILING -> trim(call.operator(), (String) one, two);
      case SUBSTRING ->
          substring((String) one, number(two), at.size() > 2 ? number(at.get(2)) : null);
      case POSITION -> {
        int found = ((String) two).indexOf((String) one);
        yield found < 0 ? 0 : ((String) two).codePointCount(0, found) + 1;
      }
      case CHAR_LENGTH -> ((String) one).codePointCount(0, ((String) one).length());
      case OVERLAY -> {
        long first = number(at.get(2));
        long length = at.size() > 3 ? number(at.get(3)) : ((String) two).codePoints().count();
        if (first < 1) {
          throw new Failure("before the first character");
        }
        yield substring((String) one, 1, first - 1)
            + two
            + substring((String) one, first + length, null);
      }
      case JSON_VALUE, JSON_EXISTS -> json(call, (String) one, (String) two);
      case CARDINALITY -> one instanceof Map<?, ?> map ? map.size() : ((List<?>) one).size();
      default -> throw new IllegalStateException(call.operator().name());
    };
  }

  static long number(Object value) {
    return ((Number) value).longValue();
  }

  private static Object arithmetic(Typed.Applied call, Object one, Object two) {
    Operator operator = call.operator();
    Type type = call.type();
    if (type == Types.DOUBLE) {
      double x = (Double) one;
      double y = (Double) two;
      if (operator == Operator.DIVIDE && y == 0) {
        throw new Failure("zero");
      }
      double result =
          switch (operator) {
            case ADD -> x + y;
            case SUBTRACT -> x - y;
            case MULTIPLY -> x * y;
            default -> x / y;
          };
      return finite(result, x, y);
    }
    if (type.isNumber()) {
      BigDecimal x = exact(one);
      BigDecimal y = exact(two);
      if ((operator == Operator.DIVIDE || operator == Operator.MOD) && y.signum() == 0) {
        throw new Failure("zero");
      }
      return held(
          switch (operator) {
            case ADD -> x.add(y);
            case SUBTRACT -> x.subtract(y);
            case MULTIPLY -> x.multiply(y);
            case MOD -> x.remainder(y);
            default -> x.divide(y, ((Type.Decimal) type).scale(), RoundingMode.HALF_UP);
          },
          type);
    }
    return SlowTimes.computed(operator, type, one, two);
  }

  static Object accepted(Object value, Type type) {
    try {
      return Values.accept(value, type);
    } catch (org.ysteron.error.InvalidInputException e) {
      throw new Failure(e.getMessage());
    }
  }

  private static Object round(Object value, long places, Type type) {
    if (value instanceof Double d) {
      if (!Double.isFinite(d) || d == 0 || places > 400) {
        return d;
      }
      if (places == 0) {
        double rounded = Math.floor(Math.abs(d) + 0.5);
        boolean halfBelow = Math.abs(d) - Math.floor(Math.abs(d)) < 0.5;
        rounded = halfBelow ? Math.floor(Math.abs(d)) : rounded;
        return Math.abs(d) >= 1L << 52 ? d : (Object) (d < 0 ? -rounded : rounded);
      }
      return new BigDecimal(d.toString())
          .setScale((int) Math.max(-400, places), RoundingMode.HALF_UP)
          .doubleValue();
    }
    BigDecimal number = exact(value);
    int scale = (int) Math.max(-100, Math.min(100, places));
    return held(
        scale >= number.scale() ? number : number.setScale(scale, RoundingMode.HALF_UP), type);
  }

  private static Object whole(Object value, RoundingMode mode, Type type) {
    if (value instanceof Double d) {
      return mode == RoundingMode.FLOOR ? Math.floor(d) : Math.ceil(d);
    }
    return held(exact(value).setScale(0, mode), type);
  }

  private static String characters(String text, java.util.function.IntUnaryOperator change) {
    StringBuilder all = new StringBuilder();
    text.codePoints().map(change).forEach(all::appendCodePoint);
    return all.toString();
  }

  private static String trim(Operator operator, String text, Object character) {
    String one = character == null ? " " : (String) character;
    if (one.codePointCount(0, one.length()) != 1) {
      throw new Failure("one character");
    }
    String rest = text;
    while (operator != Operator.TRIM_TRAILING && rest.startsWith(one)) {
      rest = rest.substring(one.length());
    }
    while (operator != Operator.TRIM_LEADING && rest.endsWith(one)) {
      rest = rest.substring(0, rest.length() - one.length());
    }
    return rest;
  }

  private static String substring(String text, long first, Long length) {
    int[] all = text.codePoints().toArray();
    if (length != null && length < 0) {
      throw new Failure("negative length");
    }
    StringBuilder part = new StringBuilder();
    for (int i = 0; i < all.length; i++) {
      long place = i + 1L;
      boolean behind =
          length != null
              && BigDecimal.valueOf(place)
                      .subtract(BigDecimal.valueOf(first))
                      .compareTo(BigDecimal.valueOf(length))
                  >= 0;
      if (place >= first && !behind) {
        part.appendCodePoint(all[i]);
      }
    }
    return part.toString();
  }

  private static Object json(Typed.Applied call, String text, String path) {
    Object value;
    try {
      value = Json.parse(text);
    } catch (org.ysteron.error.InvalidInputException e) {
      throw new Failure(e.getMessage());
    }
    boolean there = true;
    for (Object step : JsonPath.parse(path)) {
      if (step instanceof String name) {
        value = value instanceof List<?> list && list.size() == 1 ? list.get(0) : value;
        there = value instanceof Map<?, ?> map && map.containsKey(name);
        value = there ? ((Map<?, ?>) value).get(name) : null;
      } else {
        List<Object> list = new ArrayList<>();
        if (value instanceof List<?> given) {
          list.addAll(given);
        } else {
          list.add(value);
        }
        there = (Integer) step < list.size();
        value = there ? list.get((Integer) step) : null;
      }
      if (!there) {
        break;
      }
    }
    if (call.operator() == Operator.JSON_EXISTS) {
      return there;
    }
    boolean scalar = there && value != null && !(value instanceof Map) && !(value instanceof List);
    return scalar
        ? value instanceof BigDecimal number ? number.toPlainString() : value.toString()
        : null;
  }

  private static Object cast(Object value, Type from, Type to) {
    if (from.equals(to)) {
      return value;
    }
    if (to instanceof Type.Text text) {
      String whole = from.isText() ? (String) value : text(value);
      int most = text.limit().orElse(Integer.MAX_VALUE);
      return substring(whole, 1, (long) most);
    }
    if (from.isText()) {
      return ofText((String) value, to);
    }
    if (from.isNumber()) {
      return ofNumber((Number) value, to);
    }
    return ofTime(value, to);
  }

  private static Object ofNumber(Number value, Type to) {
    boolean approximate = value instanceof Double || value instanceof Float;
    if (to == Types.DOUBLE) {
      return value.doubleValue();
    }
    if (to == Types.REAL) {
      float near = (float) value.doubleValue(); // numbers pass a double on their way
      if (Float.isInfinite(near) && !(approximate && Double.isInfinite(value.doubleValue()))) {
        throw new Failure("out of range");
      }
      return near;
    }
    if (approximate && !Double.isFinite(value.doubleValue())) {
      throw new Failure("not finite");
    }
    BigDecimal exact = new BigDecimal(value.toString());
    boolean whole = to == Types.INTEGER || to == Types.BIGINT;
    if (whole && approximate) {
      exact = new BigDecimal(value.doubleValue());
    }
    int scale = to instanceof Type.Decimal decimal ? decimal.scale() : 0;
    return held(exact.setScale(scale, whole ? RoundingMode.DOWN : RoundingMode.HALF_UP), to);
  }

  private static String text(Object value) {
    if (value instanceof BigDecimal number) {
      return number.toPlainString();
    }
    if (value instanceof LocalTime time) {
      String fraction = "%06d".formatted(time.getNano() / 1000).replaceFirst("0+$", "");
      return "%02d:%02d:%02d".formatted(time.getHour(), time.getMinute(), time.getSecond())
          + (fraction.isEmpty() ? "" : "." + fraction);
    }
    if (value instanceof LocalDateTime time) {
      return time.toLocalDate() + " " + text(time.toLocalTime());
    }
    if (value instanceof Instant instant) {
      return text(LocalDateTime.ofInstant(instant, ZoneOffset.UTC)) + "+00:00";
    }
    return value.toString();
  }

  private static Object ofText(String text, Type to) {
    String bare = trim(Operator.TRIM, text, " ");
    try {
      if (to instanceof Type.Decimal decimal) {
        BigDecimal number = (BigDecimal) ValueText.parse(bare, Types.decimal(38, 20));
        return held(number.setScale(decimal.scale(), RoundingMode.HALF_UP), to);
      }
      if (to == Types.INTEGER || to == Types.BIGINT) {
        BigDecimal number = (BigDecimal) ValueText.parse(bare, Types.decimal(38, 10));
        return held(number, to);
      }
      return ValueText.parse(bare, to);
    } catch (org.ysteron.error.InvalidInputException e) {
      throw new Failure(e.getMessage());
    }
  }

  private static Object ofTime(Object value, Type to) {
    LocalDateTime local =
        value instanceof LocalDate date
            ? date.atStartOfDay()
            : value instanceof Instant instant
                ? LocalDateTime.ofInstant(instant, ZoneOffset.UTC)
                : (LocalDateTime) value;
    if (to == Types.DATE) {
      return local.toLocalDate();
    }
    if (to == Types.TIME) {
      return local.toLocalTime();
    }
    return accepted(to == Types.INSTANT ? (Object) local.toInstant(ZoneOffset.UTC) : local, to);
  }

  /** True, false, or null for unknown. */
  public Boolean test(TypedTest test) {
    if (test instanceof TypedTest.Not not) {
      return not(test(not.part()));
    }
    if (test instanceof TypedTest.All all) {
      Boolean result = true;
      for (TypedTest part : all.parts()) {
        result = and(result, test(part));
      }
      return result;
    }
    if (test instanceof TypedTest.Any any) {
      Boolean result = true;
      for (TypedTest part : any.parts()) {
        result = and(result, not(test(part)));
      }
      return not(result);
    }
    if (test instanceof TypedTest.OfNull ofNull) {
      return value(ofNull.value()) == null;
    }
    if (test instanceof TypedTest.Compare compare) {
      return compare(value(compare.left()), compare.comparison(), value(compare.right()));
    }
    if (test instanceof TypedTest.Distinct distinct) {
      Object one = value(distinct.left());
      Object other = value(distinct.right());
      return (one == null || other == null) ? one != other : order(one, other) != 0;
    }
    if (test instanceof TypedTest.OneOf oneOf) {
      Boolean result = true;
      Object value = value(oneOf.value());
      for (Typed option : oneOf.options()) {
        result = and(result, not(compare(value, Condition.Comparison.EQUAL, value(option))));
      }
      return not(result);
    }
    if (test instanceof TypedTest.Like like) {
      String text = (String) value(like.value());
      return text == null
          ? null
          : (Boolean)
              like(
                  text.codePoints().toArray(),
                  0,
                  like.pattern().codePoints().toArray(),
                  0,
                  like.escape().orElse(-1));
    }
    return (Boolean) value(((TypedTest.Holds) test).value());
  }

  private static boolean like(int[] text, int at, int[] pattern, int from, int escape) {
    if (from == pattern.length) {
      return at == text.length;
    }
    if (pattern[from] == escape) {
      return at < text.length
          && text[at] == pattern[from + 1]
          && like(text, at + 1, pattern, from + 2, escape);
    }
    if (pattern[from] == '%') {
      for (int next = at; next <= text.length; next++) {
        if (like(text, next, pattern, from + 1, escape)) {
          return true;
        }
      }
      return false;
    }
    return at < text.length
        && (pattern[from] == '_' || pattern[from] == text[at])
        && like(text, at + 1, pattern, from + 1, escape);
  }

  private static Boolean compare(Object one, Condition.Comparison comparison, Object other) {
    return (one == null || other == null) ? null : (Boolean) comparison.holds(order(one, other));
  }

  @SuppressWarnings("unchecked") // both are of one class
  private static int order(Object one, Object other) {
    if (one instanceof Number && other instanceof Number) {
      boolean approximate =
          !(one instanceof Integer || one instanceof Long || one instanceof BigDecimal);
      if (approximate) {
        double x = Double.parseDouble(one.toString());
        double y = Double.parseDouble(other.toString());
        return x == y ? 0 : Double.compare(x, y);
      }
      return exact(one).compareTo(exact(other));
    }
    if (one instanceof Period a) {
      return Long.compare(a.toTotalMonths(), ((Period) other).toTotalMonths());
    }
    if (one instanceof String a) {
      int[] x = a.codePoints().toArray();
      int[] y = ((String) other).codePoints().toArray();
      return java.util.Arrays.compare(x, y);
    }
    if (one instanceof byte[] a) {
      return java.util.Arrays.compareUnsigned(a, (byte[]) other);
    }
    return ((Comparable<Object>) one).compareTo(other);
  }

  private static Boolean and(Boolean a, Boolean b) {
    if (Boolean.FALSE.equals(a) || Boolean.FALSE.equals(b)) {
      return false;
    }
    return (a == null || b == null) ? null : Boolean.TRUE;
  }

  private static Boolean not(Boolean value) {
    return value == null ? null : (Boolean) !value;
  }
}
