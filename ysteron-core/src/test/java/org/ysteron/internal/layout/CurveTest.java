package org.ysteron.internal.layout;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.option.LayoutPlan;

class CurveTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("k", Types.INTEGER),
          Field.of("t", Types.text()),
          Field.of("d", Types.decimal(30, 2)),
          Field.of("x", Types.DOUBLE),
          Field.of("b", Types.BINARY),
          Field.of("j", Types.JSON),
          Field.of("a b at", Types.INTEGER));

  private static Layout bind(String... columns) {
    return LayoutText.bind(LayoutPlan.none().along(columns), SCHEMA);
  }

  /**
   * Along the curve every step goes to a neighbour, within any block whose side is a power of 2.
   */
  @ParameterizedTest
  @ValueSource(ints = {2, 3, 4})
  void everyStepGoesToANeighbour(int dimensions) {
    Random random = new Random(dimensions);
    int side = dimensions == 2 ? 64 : 8;
    int points = (int) Math.pow(side, dimensions);
    for (int block = 0; block < 40; block++) {
      int[] corner = random.ints(dimensions, 0, 1024 / side).map(i -> i * side).toArray();
      long[] places = new long[points];
      int[][] at = new int[points][];
      for (int p = 0; p < points; p++) {
        int[] point = corner.clone();
        for (int d = 0, rest = p; d < dimensions; d++, rest /= side) {
          point[d] += rest % side;
        }
        at[p] = point.clone();
        places[p] = Curve.along(point);
      }
      Integer[] order = IntStream.range(0, points).boxed().toArray(Integer[]::new);
      Arrays.sort(order, (a, b) -> Long.compare(places[a], places[b]));
      for (int i = 1; i < points; i++) {
        assertThat(places[order[i]]).isEqualTo(places[order[i - 1]] + 1);
        int[] before = at[order[i - 1]];
        int[] now = at[order[i]];
        int steps = IntStream.range(0, dimensions).map(d -> Math.abs(before[d] - now[d])).sum();
        assertThat(steps).isEqualTo(1);
      }
    }
  }

  private static long[] places(Layout layout, List<Type> types, List<List<Object>> columns) {
    Vector[] vectors = new Vector[columns.size()];
    for (int c = 0; c < vectors.length; c++) {
      VectorBuilder builder = new VectorBuilder(types.get(c));
      columns.get(c).forEach(builder::add);
      vectors[c] = builder.build();
    }
    return layout.curve().orElseThrow().places(types).of(vectors, columns.get(0).size());
  }

  /** However skewed a column is, its quantiles share the grid evenly; nulls are at the end. */
  @Test
  void quantilesShareTheGridEvenly() {
    Layout layout = bind("k at 0, 1, 10, 1000, 1000000", "x at 0, 1");
    List<Object> keys = new ArrayList<>(Arrays.asList(-5, 0, 1, 5, 10, 500, 1000, 900_000, null));
    List<Object> same = new ArrayList<>(java.util.Collections.nCopies(keys.size(), 0.0));
    long[] places = places(layout, List.of(Types.INTEGER, Types.DOUBLE), List.of(keys, same));
    assertThat(places[0]).isEqualTo(places[1]);
    for (int i = 1; i < places.length; i++) {
      for (int before = 1; before < i; before++) {
        assertThat(places[i])
            .as(keys.get(before) + ", " + keys.get(i))
            .isNotEqualTo(places[before]);
      }
    }
  }

  @Test
  void valuesOfEveryOrderedTypeHavePlaces() {
    byte[] bytes = "ORR-5".getBytes(StandardCharsets.UTF_8);
    Layout layout =
        bind(
            "t at 'ORR-1', 'ORR-9'",
            "d at -7.5, 12.25",
            "x at -1.5, 0, 1e300",
            "b at X'00', X'ff'");
    List<Type> types = List.of(Types.text(), Types.decimal(30, 2), Types.DOUBLE, Types.BINARY);
    List<List<Object>> columns =
        List.of(
            Arrays.asList("", "ORR-0", "ORR-5", "ORR-55", "ZZ", null, "OR"),
            Arrays.asList(
                new BigDecimal("-8"),
                null,
                new BigDecimal("0"),
                BigDecimal.ONE,
                new BigDecimal("1e20"),
                BigDecimal.TEN,
                BigDecimal.ZERO),
            Arrays.asList(Double.NaN, 0.0, -0.0, null, Double.NEGATIVE_INFINITY, 1e301, 5.0),
            Arrays.asList(bytes, new byte[0], null, bytes, bytes, bytes, new byte[] {-1, 5}));
    assertThat(places(layout, types, columns)).hasSize(7).isNotEqualTo(new long[7]);
    // Wider now than when the quantiles were found.
    Layout narrow = bind("k at 1, 2, 3", "x at 0, 1");
    List<List<Object>> wide = List.of(List.of(1L, 2L, 3_000_000_000L), List.of(0.5, 0.5, 0.5));
    long[] places = places(narrow, List.of(Types.BIGINT, Types.DOUBLE), wide);
    List<List<Object>> small = List.of(List.of(1, 2, 3), List.of(0.5, 0.5, 0.5));
    assertThat(places).isEqualTo(places(narrow, List.of(Types.INTEGER, Types.DOUBLE), small));
  }

  @Test
  void aCurveWithoutQuantilesOrdersNothing() {
    Layout layout = bind("k", "t");
    assertThat(layout.curve().orElseThrow().isPlaced()).isFalse();
    long[] places =
        places(
            layout,
            List.of(Types.INTEGER, Types.text()),
            List.of(List.of(5, -9), List.of("a", "b")));
    assertThat(places[0]).isEqualTo(places[1]);
  }

  @Test
  void aCurveIsReadAsItIsWritten() {
    Layout layout = bind("k at 1, 5", "t at 'it''s, or', 'x at y'", "\"a b at\" at -3");
    assertThat(LayoutText.bind(layout.plan(SCHEMA), SCHEMA)).isEqualTo(layout);
    byte[] json = Json.write(layout.toJson()).getBytes(StandardCharsets.UTF_8);
    assertThat(Layout.fromJson(JsonObject.parse(json))).isEqualTo(layout);
    assertThat(layout.text(SCHEMA)).isEqualTo("along a curve over k, t, \"a b at\"");
    assertThat(layout.hasOrder()).isTrue();
    assertThat(layout.under(id -> id + 10).fieldIds()).containsExactly(11, 12, 17);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "k | 2 to 4 columns, not 1",
        "k;t;d;x;b | 2 to 4 columns, not 5",
        "k;j | j is JSON, which has no order",
        "k;k at 1 | twice",
        "k;t at | a value is missing",
        "k;x at 2, 1 | must ascend",
        "k;x at 1 2 | there is text after",
        "k;x on 1 | only 'at' and its quantiles",
        "k;nothing | There is no column nothing",
      })
  void whatNoCurveCanGoOverIsRefused(String columns, String message) {
    assertThatThrownBy(() -> bind(columns.split(";")))
        .isInstanceOfAny(InvalidInputException.class, org.ysteron.error.NotFoundException.class)
        .hasMessageContaining(message);
  }

  @Test
  void sortedAndAlongACurveAreRefusedTogether() {
    LayoutPlan both = LayoutPlan.none().sortedBy("k").along("k", "t");
    assertThatThrownBy(() -> LayoutText.bind(both, SCHEMA))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("not both");
  }
}
