package org.ysteron.internal.write;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.PartitionBuffer.Parts;
import org.ysteron.option.LayoutPlan;

class PartitionRunsTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));

  private static Batch batch(List<List<Object>> rows) {
    VectorBuilder k = new VectorBuilder(Types.INTEGER);
    VectorBuilder t = new VectorBuilder(Types.text());
    for (List<Object> row : rows) {
      k.add(row.get(0));
      t.add(row.get(1));
    }
    return new Batch(SCHEMA.struct(), rows.size(), List.of(k.build(), t.build()));
  }

  /** Rows that are told apart by their texts; every fifth key is a null, many are alike. */
  @ParameterizedTest
  @CsvSource({"25, ''", "25, k", "130, k descending", "9, 'k, t'", "130, 't descending'", "1, k"})
  void rowsComeBackPartByPartAndInOrderHoweverManyRunsThereWere(int runCount, String sort) {
    Random random = new Random(5);
    LayoutPlan plan = LayoutPlan.none().rule("range k every 100");
    plan = sort.isEmpty() ? plan : plan.sortedBy(sort.split(", "));
    Layout layout = LayoutText.bind(plan, SCHEMA);
    RowOrder order = sort.isEmpty() ? null : new RowOrder(layout, SCHEMA);
    Map<Parts, List<List<Object>>> expected = new TreeMap<>();
    Map<Parts, List<List<Object>>> found = new TreeMap<>();
    List<Parts> began = new ArrayList<>();
    int number = 0;
    try (Workers workers = new Workers(1);
        PartitionRuns runs = new PartitionRuns(SCHEMA, order, workers)) {
      for (int run = 0; run < runCount; run++) {
        PartitionBuffer buffer =
            new PartitionBuffer(SCHEMA, layout.partitioners(1, SCHEMA), 1 << 30);
        List<List<Object>> rows = new ArrayList<>();
        for (int i = random.nextInt(400); i >= 0; i--) {
          Integer key = random.nextInt(5) == 0 ? null : random.nextInt(200) - 100;
          rows.add(Arrays.asList(key, "row " + number++));
        }
        for (List<Object> row : rows) {
          List<Long> parts = new ArrayList<>();
          parts.add(row.get(0) == null ? null : (long) Math.floorDiv((Integer) row.get(0), 100));
          expected.computeIfAbsent(new Parts(parts), p -> new ArrayList<>()).add(row);
        }
        buffer.add(batch(rows));
        assertThat(buffer.bytes()).isPositive();
        runs.spill(buffer.rest());
      }
      runs.forEach(
          (parts, batch) -> {
            if (began.isEmpty() || !began.get(began.size() - 1).equals(parts)) {
              began.add(parts);
            }
            List<List<Object>> rows = found.computeIfAbsent(parts, p -> new ArrayList<>());
            batch.rows().forEach(row -> rows.add(Arrays.asList(row.get("k"), row.get("t"))));
          });
    }
    expected.values().forEach(rows -> sort(rows, sort));
    assertThat(found).isEqualTo(expected);
    assertThat(began).containsExactlyElementsOf(expected.keySet());
  }

  /** As a plain sort of all would have it, which leaves rows that are alike as they came. */
  private static void sort(List<List<Object>> rows, String by) {
    Comparator<Integer> numbers =
        by.contains("descending") ? Comparator.reverseOrder() : Comparator.naturalOrder();
    Comparator<List<Object>> keys =
        Comparator.comparing(row -> (Integer) row.get(0), Comparator.nullsLast(numbers));
    Comparator<List<Object>> texts = Comparator.comparing(row -> (String) row.get(1));
    switch (by) {
      case "k", "k descending" -> rows.sort(keys);
      case "k, t" -> rows.sort(keys.thenComparing(texts));
      case "t descending" -> rows.sort(texts.reversed());
      default -> assertThat(by).isEmpty();
    }
  }
}
