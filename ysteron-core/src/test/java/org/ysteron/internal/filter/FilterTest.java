package org.ysteron.internal.filter;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;

class FilterTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("i", Types.INTEGER),
          Field.of("d", Types.DOUBLE),
          Field.of("t", Types.text()),
          Field.of("m", Types.decimal(5, 1)),
          Field.of("w", Types.decimal(30, 2)),
          Field.of("b", Types.BOOLEAN),
          Field.of("list", Types.listOf(Types.INTEGER)));

  private static final List<Condition.Comparison> COMPARISONS =
      List.of(Condition.Comparison.values());

  private static final double[] DOUBLES = {
    -1.5, -0.0, 0.0, 2.25, Double.NaN, Double.POSITIVE_INFINITY
  };

  private static Object value(Random random, int column) {
    if (random.nextInt(5) == 0) {
      return null;
    }
    int small = random.nextInt(6) - 2;
    return switch (column) {
      case 0 -> small;
      case 1 -> DOUBLES[random.nextInt(DOUBLES.length)];
      case 2 ->
          "aé\ud83d\ude00z".substring(0, random.nextInt(2)) + (char) ('a' + random.nextInt(3));
      case 3 -> BigDecimal.valueOf(small * 5L, 1);
      case 4 -> BigDecimal.valueOf(small, 2);
      case 5 -> random.nextBoolean();
      default -> List.of(small);
    };
  }

  private static Condition condition(Random random, int depth) {
    int kind = random.nextInt(depth == 0 ? 4 : 7);
    int c = random.nextInt(6);
    String name = SCHEMA.columns().get(c).name();
    return switch (kind) {
      case 0, 1 ->
          new Condition.Compare(
              name,
              COMPARISONS.get(random.nextInt(6)),
              random.nextInt(4) == 0 && c != 2 && c != 5
                  ? BigDecimal.valueOf(random.nextInt(60) - 20, 2)
                  : value(random, c));
      case 2 -> {
        List<Object> literals = new ArrayList<>();
        for (int i = random.nextInt(4); i >= 0; i--) {
          literals.add(value(random, c));
        }
        yield column(name).in(literals);
      }
      case 3 ->
          random.nextBoolean()
              ? column(name).isNull()
              : column("t").startsWith(random.nextBoolean() ? "a" : "");
      case 4 -> condition(random, depth - 1).and(condition(random, depth - 1));
      case 5 -> condition(random, depth - 1).or(condition(random, depth - 1));
      default -> condition(random, depth - 1).not();
    };
  }

  /** SQL's three-valued logic, the slow way; null is unknown. */
  private static Boolean evaluate(Condition condition, Row row) {
    if (condition instanceof Condition.Not not) {
      Boolean inner = evaluate(not.part(), row);
      return inner == null ? null : (Boolean) !inner;
    }
    if (condition instanceof Condition.And and) {
      Boolean result = true;
      for (Condition part : and.conditions()) {
        Boolean inner = evaluate(part, row);
        result = and(result, inner);
      }
      return result;
    }
    if (condition instanceof Condition.Or or) {
      return not(
          evaluate(new Condition.And(or.conditions().stream().map(Condition::not).toList()), row));
    }
    if (condition instanceof Condition.IsNull test) {
      return row.get(name(test.value())) == null;
    }
    if (condition instanceof Condition.Like test) {
      Object value = row.get(name(test.value()));
      return value == null ? null : (Boolean) ((String) value).startsWith(test.prefix());
    }
    if (condition instanceof Condition.In in) {
      Boolean result = false;
      for (Expression option : in.options()) {
        Object literal = ((Literal) option).value();
        Boolean equal = compare(row.get(name(in.value())), Condition.Comparison.EQUAL, literal);
        result = not(and(not(result), not(equal)));
      }
      return result;
    }
    Condition.Compare compare = (Condition.Compare) condition;
    Object literal = ((Literal) compare.right()).value();
    return compare(row.get(name(compare.left())), compare.comparison(), literal);
  }

  private static String name(Expression column) {
    return ((Column) column).path();
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

  private static Boolean compare(Object value, Condition.Comparison comparison, Object literal) {
    if (value == null || literal == null) {
      return null;
    }
    int order;
    if (value instanceof Double number) {
      double other = ((Number) literal).doubleValue();
      order = number == other ? 0 : Double.compare(number, other);
    } else if (value instanceof Number) {
      order = new BigDecimal("" + value).compareTo(new BigDecimal("" + literal));
    } else if (value instanceof String text) {
      order = Arrays.compareUnsigned(utf8(text), utf8((String) literal));
    } else {
      order = ((Boolean) value).compareTo((Boolean) literal);
    }
    return holds(order, comparison);
  }

  private static byte[] utf8(String text) {
    return text.getBytes(java.nio.charset.StandardCharsets.UTF_8);
  }

  private static Batch batch(List<Object[]> rows) {
    List<VectorBuilder> builders =
        SCHEMA.columns().stream().map(column -> new VectorBuilder(column.type())).toList();
    for (Object[] row : rows) {
      for (int c = 0; c < row.length; c++) {
        builders.get(c).add(row[c]);
      }
    }
    return new Batch(
        SCHEMA.struct(), rows.size(), builders.stream().map(VectorBuilder::build).toList());
  }

  @Property(tries = 2000)
  void batchesAndRangesAgreeWithSlowLogic(@ForAll long seed) {
    Random random = new Random(seed);
    List<Object[]> rows = new ArrayList<>();
    for (int i = random.nextInt(70); i >= 0; i--) {
      Object[] row = new Object[7];
      for (int c = 0; c < row.length; c++) {
        row[c] = value(random, c);
      }
      rows.add(row);
    }
    Condition condition = condition(random, 3);
    Filter filter = Filter.bind(condition, SCHEMA);
    Batch batch = batch(rows);
    long[] selected = filter.select(batch);
    int count = 0;
    for (int i = 0; i < rows.size(); i++) {
      boolean passes = (selected[i >> 6] & (1L << i)) != 0;
      assertThat(passes)
          .as("%s on %s", condition, batch.row(i))
          .isEqualTo(Boolean.TRUE.equals(evaluate(condition, batch.row(i))));
      count += passes ? 1 : 0;
    }
    Verdict verdict = filter.test(ranges(rows, random)::get);
    if (verdict == Verdict.NONE) {
      assertThat(count).as("%s", condition).isZero();
    } else if (verdict == Verdict.ALL) {
      assertThat(count).as("%s", condition).isEqualTo(rows.size());
    }
  }

  /** The exact ranges of the rows; some of them forgotten. */
  private static Map<Integer, ColumnRange> ranges(List<Object[]> rows, Random random) {
    Map<Integer, ColumnRange> ranges = new HashMap<>();
    for (int c = 0; c < 7; c++) {
      Field field = SCHEMA.columns().get(c);
      ColumnRange range = null;
      for (Object[] row : rows) {
        ColumnRange one =
            row[c] == null
                ? ColumnRange.allNull(field.type(), 1)
                : field.type().isNested()
                    ? ColumnRange.UNKNOWN
                    : ColumnRange.ofValue(field.type(), row[c]);
        range = range == null ? one : range.unite(one);
      }
      ranges.put(field.id(), random.nextInt(5) == 0 ? ColumnRange.UNKNOWN : range);
    }
    return ranges;
  }

  @Test
  void rowsOlderThanAColumnCountWithItsDefault() {
    Field added =
        new Field(
            9,
            "x",
            Types.INTEGER,
            false,
            java.util.Optional.empty(),
            java.util.Optional.empty(),
            java.util.Optional.of(5),
            "");
    Schema schema = Schema.stored(List.of(added), List.of(), 9);
    Filter five = Filter.bind(column("x").equalTo(5), schema);
    assertThat(five.test(id -> ColumnRange.ABSENT)).isEqualTo(Verdict.ALL);
    assertThat(Filter.bind(column("x").equalTo(6), schema).test(id -> ColumnRange.ABSENT))
        .isEqualTo(Verdict.NONE);
    ColumnRange mixed = ColumnRange.ABSENT.unite(ColumnRange.of(Types.INTEGER, 0, 8, 9));
    assertThat(five.test(id -> mixed)).isEqualTo(Verdict.SOME);
    assertThat(Filter.bind(column("x").greaterThan(9), schema).test(id -> mixed))
        .isEqualTo(Verdict.NONE);
  }

  @ParameterizedTest
  @CsvSource({
    "INTEGER, BIGINT, 3, 4",
    "INTEGER, 'DECIMAL(12, 2)', 300, 400",
    "'DECIMAL(5, 1)', 'DECIMAL(7, 3)', 300, 400",
    "DATE, TIMESTAMP, 259200000000, 345600000000"
  })
  void boundsAreWidenedExactly(String from, String to, long low, long high) {
    ColumnRange range = ColumnRange.of(Types.parse(from), 1, 3, 4);
    assertThat(range.widen(Types.parse(to)))
        .isEqualTo(ColumnRange.of(Types.parse(to), 1, low, high));
    Type wide = Types.decimal(30, 2);
    assertThat(ColumnRange.of(Types.TIME, 0, 1, 2).widen(wide)).isEqualTo(ColumnRange.UNKNOWN);
  }

  @Test
  void wrongConditionsAreRefused() {
    assertThatThrownBy(() -> Filter.bind(column("j").isNull(), SCHEMA))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("There is no column j. Did you mean");
    assertThatThrownBy(() -> Filter.bind(column("i").equalTo("x"), SCHEMA))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Column i is INTEGER and cannot be compared with 'x'");
    assertThatThrownBy(() -> Filter.bind(column("list").equalTo(1), SCHEMA))
        .hasMessageContaining("it can only be tested for null");
    assertThatThrownBy(() -> Filter.bind(column("i").startsWith("x"), SCHEMA))
        .hasMessageContaining("only text can start with");
    assertThatThrownBy(() -> Filter.bind(column("i.x").equalTo(1), SCHEMA))
        .hasMessageContaining("has no field x");
  }

  @Property(tries = 400)
  void realsAndDoublesAreComparedByExactValues(@ForAll Random random) {
    boolean real = random.nextBoolean();
    Schema schema = Schema.of(Field.of("r", real ? Types.REAL : Types.DOUBLE));
    VectorBuilder column = new VectorBuilder(schema.columns().get(0).type());
    List<Double> values = new ArrayList<>();
    for (int i = 0; i < 40; i++) {
      double value = extreme(random);
      values.add(real ? (double) (float) value : value);
      column.add(real ? (Object) (float) value : (Object) value);
    }
    Batch batch = new Batch(schema.struct(), 40, List.of(column.build()));
    double near = extreme(random);
    BigDecimal literal =
        Double.isFinite(near)
            ? new BigDecimal(near)
                .add(Math.abs(near) < 1e-9 ? BigDecimal.ZERO : ulp(random).movePointLeft(30))
            : new BigDecimal(random.nextBoolean() ? "1e39" : "-2e400");
    if (random.nextInt(4) == 0 && Float.isFinite((float) near)) {
      literal = new BigDecimal(Float.toString((float) near));
    }
    for (Condition.Comparison comparison : COMPARISONS) {
      Filter filter = Filter.bind(new Condition.Compare("r", comparison, literal), schema);
      long[] selected = filter.select(batch);
      for (int i = 0; i < 40; i++) {
        boolean expected = holds(order(values.get(i), literal, real), comparison);
        assertThat((selected[0] >> i & 1) == 1)
            .as("%s %s %s", values.get(i), comparison.sql(), literal)
            .isEqualTo(expected);
      }
    }
    long[] in = Filter.bind(column("r").in(List.of(literal)), schema).select(batch);
    long[] equal = Filter.bind(column("r").equalTo(literal), schema).select(batch);
    assertThat(in).isEqualTo(equal);
    long[] notIn = Filter.bind(column("r").in(List.of(literal)).not(), schema).select(batch);
    assertThat(notIn[0]).isEqualTo(~equal[0] & (1L << 40) - 1);
  }

  private static BigDecimal ulp(Random random) {
    return new BigDecimal(random.nextInt(3) - 1);
  }

  private static double extreme(Random random) {
    return switch (random.nextInt(8)) {
      case 0 -> Double.POSITIVE_INFINITY;
      case 1 -> Double.NaN;
      case 2 -> (random.nextBoolean() ? 1 : -1) * (16777216 + random.nextInt(3));
      case 3 -> random.nextInt(5) / 10.0;
      case 4 -> (float) (random.nextInt(5) / 10.0);
      case 5 -> Float.MAX_VALUE * (1 + random.nextInt(3) * 1e-8);
      case 6 -> -0.0;
      default -> Double.longBitsToDouble(random.nextLong());
    };
  }

  /** The order by exact values; NaN is above all, and the text of a value stands for it. */
  private static int order(double value, BigDecimal literal, boolean real) {
    if (Double.isNaN(value) || Double.isInfinite(value)) {
      return value < 0 ? -1 : 1;
    }
    boolean itsText =
        new BigDecimal(Double.toString(value)).compareTo(literal) == 0
            || (real && new BigDecimal(Float.toString((float) value)).compareTo(literal) == 0);
    return itsText ? 0 : new BigDecimal(value).compareTo(literal);
  }

  private static boolean holds(int order, Condition.Comparison comparison) {
    return switch (comparison) {
      case EQUAL -> order == 0;
      case NOT_EQUAL -> order != 0;
      case LESS -> order < 0;
      case AT_MOST -> order <= 0;
      case GREATER -> order > 0;
      case AT_LEAST -> order >= 0;
    };
  }

  @Test
  void aRealBeyondItsRangeIsNotInfinity() {
    Schema schema = Schema.of(Field.of("r", Types.REAL));
    VectorBuilder column = new VectorBuilder(Types.REAL);
    column.add(Float.POSITIVE_INFINITY);
    column.add(0.1f);
    column.add(16777216f);
    Batch batch = new Batch(schema.struct(), 3, List.of(column.build()));
    Map<Condition, Long> expected =
        Map.of(
            column("r").equalTo(1e40), 0L,
            column("r").greaterThan(new BigDecimal("1e40")), 1L,
            column("r").lessThan("1e40"), 6L,
            column("r").equalTo(0.1), 2L,
            column("r").equalTo("0.1"), 2L,
            column("r").equalTo(0.1f), 2L,
            column("r").equalTo(16777217), 0L,
            column("r").lessThan(16777217), 6L,
            column("r").equalTo("Infinity"), 1L);
    expected.forEach(
        (condition, rows) ->
            assertThat(Filter.bind(condition, schema).select(batch))
                .as(condition.toString())
                .containsExactly(rows));
  }

  @Test
  void literalsThatNoColumnCanHoldAreRefusedAtOnce() {
    for (Object giant : List.of("1e999999999", new BigDecimal("1e-999999999"))) {
      for (String column : List.of("i", "d", "m", "w")) {
        assertThatThrownBy(() -> Filter.bind(column(column).lessThan(giant), SCHEMA))
            .isInstanceOf(InvalidInputException.class)
            .hasMessageContaining("cannot be compared with");
      }
    }
    assertThatThrownBy(() -> Filter.bind(column("t").equalTo("\ud800"), SCHEMA))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> Filter.bind(column("t").startsWith("\ud800"), SCHEMA))
        .isInstanceOf(InvalidInputException.class);
  }
}
