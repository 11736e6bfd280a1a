package org.ysteron.internal.filter;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Expression.column;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.evaluate.RandomExpressions;
import org.ysteron.internal.evaluate.SlowEvaluator;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.typing.TypedTest;
import org.ysteron.internal.typing.Typing;

/** What ranges, single values and parts say of conditions never contradicts the rows. */
class PruningTest {
  private static final int TRIES = Integer.getInteger("ysteron.expressions", 4000);
  private static final Schema SCHEMA = RandomExpressions.SCHEMA;
  private static final long PART = 5;

  private int bound;
  private int none;
  private int all;
  private int noParts;
  private int noValues;

  @Test
  void pruningNeverLosesARow() {
    long first = Long.getLong("ysteron.seed", new Random().nextLong());
    for (long seed = first; seed < first + TRIES; seed++) {
      try {
        check(new Random(seed));
      } catch (Throwable e) {
        throw new AssertionError("seed " + seed, e);
      }
    }
    if (TRIES > 1000) {
      assertThat(List.of(bound, none, all, noParts, noValues)).allMatch(count -> count > 10);
    }
  }

  private void check(Random random) {
    RandomExpressions expressions = new RandomExpressions(random);
    Condition condition = expressions.condition(random.nextInt(4));
    Filter filter;
    try {
      filter = Filter.bind(condition, SCHEMA, groupings());
    } catch (InvalidInputException e) {
      return;
    }
    bound++;
    TypedTest test = new Typing(SCHEMA).type(condition);
    Batch rows = sound(test, expressions.batch(1 + random.nextInt(4)));
    if (rows.size() == 0) {
      return;
    }
    long selected = 0;
    for (int i = 0; i < rows.size(); i++) {
      boolean passes = Boolean.TRUE.equals(new SlowEvaluator(rows.row(i)).test(test));
      selected |= passes ? 1L << i : 0;
    }
    String what = condition + " of " + rows.rows();
    if (isExact(condition)) {
      assertThat(filter.select(rows)[0]).as(what).isEqualTo(selected);
    }
    Ranges ranges = ranges(rows);
    Verdict verdict = filter.test(ranges);
    if (verdict == Verdict.NONE) {
      none++;
      assertThat(selected).as(what).isZero();
    }
    if (verdict == Verdict.ALL) {
      all++;
      assertThat(Long.bitCount(selected)).as(what).isEqualTo(rows.size());
    }
    if (filter.excludesParts(ranges)) {
      noParts++;
      assertThat(selected).as(what).isZero();
    }
    if (filter.asksForValues() && !filter.mayHold(held(rows))) {
      noValues++;
      assertThat(selected).as(what).isZero();
    }
  }

  /** Only the rows for which the condition can be computed. */
  private static Batch sound(TypedTest test, Batch rows) {
    int[] sound =
        IntStream.range(0, rows.size())
            .filter(
                i -> {
                  try {
                    new SlowEvaluator(rows.row(i)).test(test);
                    return true;
                  } catch (SlowEvaluator.Failure e) {
                    return false;
                  }
                })
            .toArray();
    return Gather.rows(rows, sound);
  }

  /**
   * Whether no approximate column is compared with an exact literal, which the filter does exactly.
   */
  private static boolean isExact(Condition condition) {
    return !condition.columns().contains("r") && !condition.columns().contains("f");
  }

  private static Ranges ranges(Batch rows) {
    return id -> id >= 1000 ? partRange(rows, id) : range(vector(rows, id));
  }

  private static Vector vector(Batch rows, int id) {
    for (int c = 0; c < rows.vectors().size(); c++) {
      Vector vector = rows.vectors().get(c);
      if (SCHEMA.columns().get(c).id() == id) {
        return vector;
      }
      if (vector instanceof Vector.OfStruct struct) {
        List<Field> fields = ((Type.Struct) struct.type()).fields();
        for (int f = 0; f < fields.size(); f++) {
          if (fields.get(f).id() == id) {
            return struct.fields().get(f);
          }
        }
      }
    }
    throw new IllegalArgumentException("no column " + id);
  }

  private static ColumnRange range(Vector vector) {
    ColumnRange range = null;
    for (int i = 0; i < vector.size(); i++) {
      ColumnRange one =
          vector.isNull(i)
              ? ColumnRange.allNull(vector.type(), 1)
              : vector.type().isNested()
                  ? ColumnRange.UNKNOWN
                  : ColumnRange.ofValue(vector.type(), vector.get(i));
      range = range == null ? one : range.unite(one);
    }
    return range;
  }

  /** Columns i and s are grouped by fives; the ids of their parts are theirs plus 1000. */
  private static List<Grouping> groupings() {
    List<Grouping> groupings = new ArrayList<>();
    for (String name : List.of("i", "s")) {
      int id = SCHEMA.find(name).id();
      groupings.add(
          new Grouping() {
            @Override
            public int fieldId() {
              return id;
            }

            @Override
            public int partId() {
              return id + 1000;
            }

            @Override
            public Optional<Span> parts(long low, long high) {
              return Optional.of(new Span(Math.floorDiv(low, PART), Math.floorDiv(high, PART)));
            }

            @Override
            public Optional<Span> parts(byte[] low, byte[] high) {
              return Optional.empty();
            }
          });
    }
    return groupings;
  }

  private static ColumnRange partRange(Batch rows, int id) {
    Vector vector = vector(rows, id - 1000);
    ColumnRange range = null;
    for (int i = 0; i < vector.size(); i++) {
      ColumnRange one =
          vector.isNull(i)
              ? ColumnRange.allNull(Types.BIGINT, 1)
              : ColumnRange.ofValue(Types.BIGINT, Math.floorDiv(Ordered.number(vector, i), PART));
      range = range == null ? one : range.unite(one);
    }
    return range;
  }

  private static HeldValues held(Batch rows) {
    return new HeldValues() {
      @Override
      public boolean mayHold(Field field, long value) {
        Vector vector = vector(rows, field.id());
        return IntStream.range(0, vector.size())
            .anyMatch(i -> !vector.isNull(i) && Ordered.number(vector, i) == value);
      }

      @Override
      public boolean mayHold(Field field, byte[] value) {
        Vector.OfBytes vector = (Vector.OfBytes) vector(rows, field.id());
        return IntStream.range(0, vector.size())
            .anyMatch(
                i ->
                    !vector.isNull(i)
                        && java.util.Arrays.equals(
                            vector.data(),
                            vector.starts()[i],
                            vector.starts()[i] + vector.lengths()[i],
                            value,
                            0,
                            value.length));
      }
    };
  }

  /** A condition, the least and greatest value of its column, and whether they exclude all rows. */
  record Case(Condition condition, Object low, Object high, Verdict verdict) {}

  static List<Case> cases() {
    LocalDate day = LocalDate.of(2026, 3, 1);
    LocalDateTime morning = day.atTime(6, 0);
    LocalDateTime night = day.atTime(23, 59, 59);
    return List.of(
        new Case(column("l").cast(Types.DATE).equalTo(day), morning, night, Verdict.ALL),
        new Case(
            column("l").cast(Types.DATE).equalTo(day.plusDays(1)), morning, night, Verdict.NONE),
        new Case(column("l").extract(TimeUnit.YEAR).equalTo(2026), morning, night, Verdict.ALL),
        new Case(column("l").extract(TimeUnit.YEAR).equalTo(2025), morning, night, Verdict.NONE),
        new Case(
            column("l").extract(TimeUnit.YEAR).in(List.of(2024, 2025)),
            morning,
            night,
            Verdict.NONE),
        new Case(
            column("l").floorTo(TimeUnit.DAY).equalTo(day.atStartOfDay()),
            morning,
            night,
            Verdict.ALL),
        new Case(
            column("l").minus(Duration.ofDays(1)).atLeast(day.atStartOfDay()),
            morning,
            night,
            Verdict.NONE),
        new Case(column("i").plus(5).lessThan(10), 5, 9, Verdict.NONE),
        new Case(column("i").plus(5).lessThan(10), 4, 9, Verdict.SOME),
        new Case(column("i").times(-2).greaterThan(10), -5, 9, Verdict.NONE),
        new Case(column("i").negated().round(0).notEqualTo(3), -3, -3, Verdict.NONE),
        new Case(
            column("d")
                .atMost(
                    org.ysteron.expr.Expression.literal(new BigDecimal("0.06"))
                        .minus(new BigDecimal("0.01"))),
            new BigDecimal("0.06"),
            new BigDecimal("0.10"),
            Verdict.NONE),
        new Case(
            column("d").times(new BigDecimal("1.5")).round(0).equalTo(3),
            new BigDecimal("2.34"),
            new BigDecimal("9.00"),
            Verdict.NONE),
        new Case(column("f").times(2).lessThan(1), 0.5, 3.0, Verdict.NONE),
        new Case(
            column("p.x").abs().lessThan(column("p.x")),
            new BigDecimal("1.0"),
            new BigDecimal("2.0"),
            Verdict.SOME));
  }

  @ParameterizedTest
  @MethodSource("cases")
  void risingAndFallingCallsAreSolved(Case of) {
    Filter filter = Filter.bind(of.condition, SCHEMA);
    Verdict verdict =
        filter.test(
            id -> {
              Type type = SCHEMA.field(id).orElseThrow().type();
              return ColumnRange.ofValue(type, of.low).unite(ColumnRange.ofValue(type, of.high));
            });
    // What can fail is computed for each row, whatever the ranges say.
    assertThat(verdict).as(of.condition.toString()).isEqualTo(of.verdict);
  }

  @Test
  void expressionsOfTwoColumnsExcludeRows() {
    Filter filter = Filter.bind(column("i").minus(column("b")).greaterThan(10), SCHEMA);
    int i = SCHEMA.find("i").id();
    Ranges near =
        id -> ColumnRange.of(id == i ? Types.INTEGER : Types.BIGINT, 0, id == i ? 1 : 0, 10);
    Ranges far =
        id -> ColumnRange.of(id == i ? Types.INTEGER : Types.BIGINT, 0, id == i ? 1 : -1, 10);
    assertThat(filter.test(near)).isEqualTo(Verdict.NONE);
    assertThat(filter.test(far)).isEqualTo(Verdict.SOME);
  }
}
