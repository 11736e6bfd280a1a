package org.ysteron.internal.evaluate;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Call;
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Element;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;

/** Random expressions, most of which can be typed, and random rows with everything that is odd. */
public final class RandomExpressions {
  /** Columns of all types. */
  public static final Schema SCHEMA =
      Schema.of(
          Field.of("i", Types.INTEGER),
          Field.of("b", Types.BIGINT),
          Field.of("d", Types.decimal(9, 2)),
          Field.of("w", Types.decimal(38, 6)),
          Field.of("r", Types.REAL),
          Field.of("f", Types.DOUBLE),
          Field.of("t", Types.text()),
          Field.of("u", Types.text(4)),
          Field.of("s", Types.DATE),
          Field.of("c", Types.TIME),
          Field.of("l", Types.TIMESTAMP),
          Field.of("z", Types.INSTANT),
          Field.of("o", Types.BOOLEAN),
          Field.of("n", Types.INTEGER).notNull(),
          Field.of("xs", Types.listOf(Types.INTEGER)),
          Field.of("m", Types.mapOf(Types.text(), Types.decimal(5, 1))),
          Field.of(
              "p", Types.struct(Field.of("x", Types.decimal(5, 1)), Field.of("y", Types.text()))),
          Field.of("j", Types.JSON));

  private static final List<String> TEXTS =
      List.of(
          "",
          "a",
          "A",
          "ab",
          " ab ",
          "a%b",
          "straße",
          "é",
          "\uFFFD",
          "\uD83D\uDE00",
          "x\uD83D\uDE00y",
          "12",
          "-3.50",
          "2026-02-28",
          "zz",
          "\u0000",
          "ab_",
          "true");
  private static final List<String> DOCUMENTS =
      List.of("{\"a\": 1}", "{\"a\": {\"b\": [1, 2.50]}}", "[{\"a\": \"x\"}]", "null", "3", "{}");
  private static final List<String> PATTERNS =
      List.of(
          "a%", "%b", "_", "%", "", "a_b", "%a%", "a!%b", "%\uD83D\uDE00%", "__", "ab", "%a%b%");

  private final Random random;

  public RandomExpressions(Random random) {
    this.random = random;
  }

  private <T> T of(List<T> all) {
    return all.get(random.nextInt(all.size()));
  }

  /** Some rows; a few are full of nulls. */
  public Batch batch(int size) {
    List<VectorBuilder> builders = new ArrayList<>();
    SCHEMA.columns().forEach(field -> builders.add(new VectorBuilder(field.type())));
    int nulls = random.nextInt(3) == 0 ? 0 : 2 + random.nextInt(6);
    for (int i = 0; i < size; i++) {
      for (int c = 0; c < builders.size(); c++) {
        Field field = SCHEMA.columns().get(c);
        boolean isNull = !field.required() && nulls > 0 && random.nextInt(nulls) == 0;
        builders.get(c).add(isNull ? null : value(field.type()));
      }
    }
    List<Vector> vectors = builders.stream().map(VectorBuilder::build).toList();
    return new Batch(SCHEMA.struct(), size, vectors);
  }

  private long whole(int bits) {
    return random.nextInt(8) == 0
        ? random.nextLong() >> (Long.SIZE - bits)
        : random.nextInt(21) - 10;
  }

  /** A value of a type. */
  public Object value(Type type) {
    if (type instanceof Type.Decimal decimal) {
      java.math.BigInteger unscaled =
          random.nextInt(6) == 0
              ? new java.math.BigInteger(random.nextInt(decimal.precision() * 3) + 1, random)
              : java.math.BigInteger.valueOf(random.nextInt(2001) - 1000);
      java.math.BigInteger limit = java.math.BigInteger.TEN.pow(decimal.precision());
      return new BigDecimal(
          random.nextBoolean() ? unscaled.mod(limit) : unscaled.mod(limit).negate(),
          decimal.scale());
    }
    if (type instanceof Type.Text text) {
      String chosen = of(TEXTS);
      int most = text.limit().orElse(100);
      return chosen.codePointCount(0, chosen.length()) > most ? "ab" : chosen;
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      for (int i = random.nextInt(4); i > 0; i--) {
        elements.add(random.nextInt(4) == 0 ? null : value(list.element().type()));
      }
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      Map<Object, Object> entries = new LinkedHashMap<>();
      for (int i = random.nextInt(3); i > 0; i--) {
        entries.put(of(List.of("a", "b", "")), value(map.value().type()));
      }
      return entries;
    }
    if (type instanceof Type.Struct struct) {
      Object[] fields = new Object[struct.fields().size()];
      for (int i = 0; i < fields.length; i++) {
        fields[i] = random.nextInt(4) == 0 ? null : value(struct.fields().get(i).type());
      }
      return Row.of(struct, fields);
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> random.nextBoolean();
      case INTEGER -> (int) whole(32);
      case BIGINT -> whole(64);
      case REAL -> (float) real();
      case DOUBLE -> real();
      case DATE -> date();
      case TIME -> time();
      case TIMESTAMP -> LocalDateTime.of(date(), time());
      case INSTANT -> LocalDateTime.of(date(), time()).toInstant(ZoneOffset.UTC);
      case JSON -> of(DOCUMENTS);
      default -> throw new IllegalArgumentException(type.toString());
    };
  }

  private double real() {
    return switch (random.nextInt(12)) {
      case 0 -> Double.NaN;
      case 1 -> -0.0;
      case 2 -> random.nextBoolean() ? Double.POSITIVE_INFINITY : Double.NEGATIVE_INFINITY;
      case 3 -> random.nextGaussian() * 1e30;
      case 4 -> 0.1;
      default -> (random.nextInt(81) - 40) / 4.0;
    };
  }

  private LocalDate date() {
    return of(
        List.of(
            LocalDate.of(2024, 2, 29),
            LocalDate.of(1900, 2, 28),
            LocalDate.of(2000, 12, 31),
            LocalDate.of(-4, 2, 29),
            LocalDate.of(1969, 12, 31),
            LocalDate.of(2026, 1, 1).plusDays(random.nextInt(800)),
            LocalDate.of(2027, 1, 1)));
  }

  private LocalTime time() {
    return of(
        List.of(
            LocalTime.MIDNIGHT,
            LocalTime.of(23, 59, 59, 999_999_000),
            LocalTime.of(12, 30, 15, 1000),
            LocalTime.ofSecondOfDay(random.nextInt(86_400))));
  }

  /** A condition. */
  public Condition condition(int depth) {
    int kind = random.nextInt(depth <= 0 ? 9 : 13);
    return switch (kind) {
      case 0, 1, 2, 3 -> {
        String of =
            of(List.of("number", "number", "text", "date", "time", "stamp", "instant", "bool"));
        Condition.Comparison comparison = of(List.of(Condition.Comparison.values()));
        yield new Condition.Compare(value(of, depth - 1), comparison, value(of, depth - 1));
      }
      case 4 -> value("number", depth - 1).distinctFrom(value("number", depth - 1));
      case 5 -> {
        String of = of(List.of("number", "text", "date"));
        List<Expression> options = new ArrayList<>();
        for (int i = random.nextInt(4); i >= 0; i--) {
          options.add(value(of, random.nextInt(3) == 0 ? depth - 1 : -1));
        }
        yield new Condition.In(value(of, depth - 1), options);
      }
      case 6 -> value(of(List.of("number", "text", "instant")), depth - 1).isNull();
      case 7 -> {
        String pattern = of(PATTERNS);
        Expression text = value("text", depth - 1);
        yield pattern.contains("!") ? text.like(pattern, '!') : text.like(pattern);
      }
      case 8 -> new Condition.Holds(value("bool", depth - 1));
      case 9 -> condition(depth - 1).and(condition(depth - 1));
      case 10 -> condition(depth - 1).or(condition(depth - 1));
      default -> condition(depth - 1).not();
    };
  }

  /** An expression of a kind: number, text, date, time, stamp, instant, bool, interval, months. */
  public Expression value(String kind, int depth) {
    if (depth < 0 || random.nextInt(6) == 0) {
      return leaf(kind);
    }
    if (random.nextInt(7) == 0) {
      return common(kind, depth - 1);
    }
    return switch (kind) {
      case "number" -> number(depth - 1);
      case "text" -> text(depth - 1);
      case "bool" ->
          random.nextBoolean()
              ? condition(depth - 1)
              : new Call(
                  Operator.JSON_EXISTS,
                  List.of(Expression.column("j"), Expression.literal("$.a.b[1]")));
      case "interval" -> interval(depth - 1);
      case "months" ->
          random.nextBoolean()
              ? leaf(kind)
              : new Call(Operator.MULTIPLY, List.of(Expression.column("i"), leaf(kind)));
      default -> time(kind, depth - 1);
    };
  }

  private Expression leaf(String kind) {
    if (random.nextInt(12) == 0) {
      return Expression.literal(null);
    }
    boolean column = random.nextBoolean();
    return switch (kind) {
      case "number" ->
          column
              ? Expression.column(of(List.of("i", "b", "d", "w", "r", "f", "n", "p.x")))
              : Expression.literal(
                  of(
                      List.<Object>of(
                          0,
                          1,
                          -1,
                          7,
                          10L,
                          new BigDecimal("0.5"),
                          new BigDecimal("-12.345"),
                          2.5,
                          Integer.MAX_VALUE,
                          Long.MIN_VALUE,
                          new BigDecimal("1e20"),
                          0.1f)));
      case "text" ->
          column
              ? Expression.column(of(List.of("t", "u", "p.y", "j")))
              : Expression.literal(of(TEXTS));
      case "date" -> column ? Expression.column("s") : Expression.literal(date());
      case "time" -> column ? Expression.column("c") : Expression.literal(time());
      case "stamp" ->
          column
              ? Expression.column(of(List.of("l", "s")))
              : Expression.literal(value(Types.TIMESTAMP));
      case "instant" -> column ? Expression.column("z") : Expression.literal(value(Types.INSTANT));
      case "bool" -> column ? Expression.column("o") : Expression.literal(random.nextBoolean());
      case "interval" ->
          Expression.literal(
              of(
                  List.of(
                      Duration.ofDays(1),
                      Duration.ofDays(-31),
                      Duration.ofHours(25),
                      Duration.ofNanos(1000))));
      default ->
          Expression.literal(
              of(List.of(Period.ofMonths(1), Period.ofMonths(-13), Period.ofYears(4))));
    };
  }

  private Expression common(String kind, int depth) {
    return switch (random.nextInt(3)) {
      case 0 -> Expression.coalesce(value(kind, depth), value(kind, depth));
      case 1 -> value(kind, depth).nullIf(value(kind, depth));
      default -> {
        Case choice = Expression.when(condition(depth), value(kind, depth));
        choice = random.nextBoolean() ? choice : choice.when(condition(depth), value(kind, depth));
        yield random.nextInt(4) == 0 ? choice : choice.otherwise(value(kind, depth));
      }
    };
  }

  private Expression number(int depth) {
    Expression one = value("number", depth);
    return switch (random.nextInt(22)) {
      case 0, 1 -> one.plus(value("number", depth));
      case 2, 3 -> one.minus(value("number", depth));
      case 4, 5 -> one.times(value("number", depth));
      case 6 -> one.dividedBy(value("number", depth));
      case 7 -> one.modulo(value("number", depth));
      case 8 -> one.negated();
      case 9 -> one.abs();
      case 10 -> one.round(random.nextInt(7) - 3);
      case 11 -> new Call(Operator.ROUND, List.of(one, Expression.column("n")));
      case 12 -> new Call(of(List.of(Operator.FLOOR, Operator.CEIL)), List.of(one));
      case 13 -> new Call(of(List.of(Operator.SQRT, Operator.EXP, Operator.LN)), List.of(one));
      case 14 -> new Call(Operator.POWER, List.of(one, value("number", -1)));
      case 15 ->
          new Cast(
              random.nextInt(3) == 0 ? value("text", depth) : one,
              of(
                  List.of(
                      Types.INTEGER,
                      Types.BIGINT,
                      Types.DOUBLE,
                      Types.REAL,
                      Types.decimal(5, 1),
                      Types.decimal(18, 0),
                      Types.decimal(38, 10))));
      case 16 -> value("text", depth).length();
      case 17 -> new Call(Operator.POSITION, List.of(value("text", depth), value("text", depth)));
      case 18 ->
          value(of(List.of("date", "time", "stamp", "instant")), depth)
              .extract(of(List.of(TimeUnit.values())));
      case 19 -> Expression.column(of(List.of("xs", "m"))).cardinality();
      case 20 -> new Element(Expression.column("xs"), value("number", -1));
      default -> new Element(Expression.column("m"), value("text", -1));
    };
  }

  private Expression text(int depth) {
    Expression one = value("text", depth);
    return switch (random.nextInt(11)) {
      case 0 -> one.concat(value("text", depth));
      case 1 -> one.upper();
      case 2 -> one.lower();
      case 3 -> one.trim();
      case 4 ->
          new Call(
              of(List.of(Operator.TRIM, Operator.TRIM_LEADING, Operator.TRIM_TRAILING)),
              List.of(one, Expression.literal(of(List.of("a", "\uD83D\uDE00", "ab")))));
      case 5 -> one.substring(value("number", -1));
      case 6 -> one.substring(Expression.column("n"), Expression.column("i"));
      case 7 ->
          new Call(
              Operator.OVERLAY,
              List.of(one, value("text", depth), Expression.column("n"), value("number", -1)));
      case 8 ->
          new Cast(
              value(
                  of(List.of("number", "date", "time", "stamp", "instant", "bool", "text")), depth),
              random.nextBoolean() ? Types.text() : Types.text(3));
      case 9 -> Expression.column("j").jsonValue(of(List.of("$.a", "$.a.b[1]", "$[0].a", "$")));
      default ->
          new Call(Operator.OVERLAY, List.of(one, value("text", depth), Expression.column("n")));
    };
  }

  private Expression interval(int depth) {
    return switch (random.nextInt(4)) {
      case 0 -> new Call(Operator.MULTIPLY, List.of(Expression.column("i"), leaf("interval")));
      case 1 -> {
        String of = of(List.of("date", "time", "stamp", "instant"));
        yield value(of, depth).minus(value(of, depth));
      }
      case 2 -> value("interval", depth).plus(value("interval", depth));
      default -> value("interval", depth).negated();
    };
  }

  private Expression time(String kind, int depth) {
    Expression one = value(kind, depth);
    return switch (random.nextInt(6)) {
      case 0 -> one.plus(value("interval", depth));
      case 1 -> one.minus(leaf("months"));
      case 2 -> one.floorTo(of(List.of(TimeUnit.values())));
      case 3 -> new TimePart(TimePart.Kind.CEIL, of(List.of(TimeUnit.values())), one);
      case 4 ->
          new Cast(
              value(of(List.of("date", "stamp", "instant", "text")), depth),
              switch (kind) {
                case "date" -> Types.DATE;
                case "time" -> Types.TIME;
                case "stamp" -> Types.TIMESTAMP;
                default -> Types.INSTANT;
              });
      default -> one.plus(leaf("interval"));
    };
  }
}
