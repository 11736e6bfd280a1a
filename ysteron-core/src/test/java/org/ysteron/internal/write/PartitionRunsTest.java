package org.ysteron.internal.write;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
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

  private static Batch batch(List<Integer> keys) {
    VectorBuilder k = new VectorBuilder(Types.INTEGER);
    VectorBuilder t = new VectorBuilder(Types.text());
    for (Integer key : keys) {
      k.add(key);
      t.add("row " + key);
    }
    return new Batch(SCHEMA.struct(), keys.size(), List.of(k.build(), t.build()));
  }

  @Test
  void rowsComeBackPartByPartHoweverManyRunsThereWere() {
    Random random = new Random(5);
    Layout layout = LayoutText.bind(LayoutPlan.none().rule("range k every 100"), SCHEMA);
    Map<Parts, List<Object>> expected = new TreeMap<>();
    Map<Parts, List<Object>> found = new TreeMap<>();
    List<Parts> ended = new ArrayList<>();
    try (Workers workers = new Workers(1);
        PartitionRuns runs = new PartitionRuns(SCHEMA, workers)) {
      for (int run = 0; run < 25; run++) {
        PartitionBuffer buffer = new PartitionBuffer(SCHEMA, layout.partitioners(1, SCHEMA));
        List<Integer> keys = new ArrayList<>();
        for (int i = random.nextInt(400); i >= 0; i--) {
          keys.add(random.nextInt(20) == 0 ? null : random.nextInt(1000) - 500);
        }
        for (Integer key : keys) {
          Long part = key == null ? null : (Long) (long) Math.floorDiv(key, 100);
          List<Long> parts = new ArrayList<>();
          parts.add(part);
          expected.computeIfAbsent(new Parts(parts), p -> new ArrayList<>()).add("row " + key);
        }
        buffer.add(batch(keys));
        assertThat(buffer.bytes()).isPositive();
        runs.spill(buffer.rest());
      }
      runs.forEach(
          new PartitionRuns.Target() {
            @Override
            public void rows(Parts parts, Batch batch) {
              List<Object> rows = found.computeIfAbsent(parts, p -> new ArrayList<>());
              batch.rows().forEach(row -> rows.add(row.get("t")));
            }

            @Override
            public void end(Parts parts) {
              ended.add(parts);
            }
          });
    }
    assertThat(found).isEqualTo(expected);
    assertThat(ended).containsExactlyElementsOf(expected.keySet()).hasSize(11);
  }
}
