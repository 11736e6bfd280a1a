package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.proof.CheckDepth;
import org.ysteron.store.MemoryStore;

/**
 * Rows of every type, in files of many row groups, of any layout, with columns that are no more in
 * the table: some are erased, at either end of a file or all over it, and what is left is what it
 * was, in each version by its own columns.
 */
class ErasureModelTest {
  private static final Schema SCHEMA = RandomRows.everyType();

  private final Map<Long, List<Row>> versions = new HashMap<>();
  private Random random;

  private LayoutPlan layout() {
    return switch (random.nextInt(5)) {
      case 0 -> LayoutPlan.none().sortedBy("id");
      case 1 -> LayoutPlan.none().rule("hash id into 3").sortedBy("a_struct.x", "id");
      case 2 -> LayoutPlan.none().along("id", "a_struct.x");
      default -> LayoutPlan.none();
    };
  }

  private static List<Row> rows(TableView view) {
    List<Row> rows = new ArrayList<>();
    view.scan().rows().forEach(rows::add);
    return rows;
  }

  private void remember(Table table) {
    versions.put(table.now().version(), rows(table.now()));
  }

  private void fill(Table table, int first, int count) {
    RandomRows values = new RandomRows(random.nextLong());
    try (Append append = table.append()) {
      for (int i = first; i < first + count; i++) {
        append.add(values.row(SCHEMA, i));
      }
      append.commit();
    }
    remember(table);
  }

  /** Some ids from one on, or those of a remainder, or rows by what is in a struct. */
  private Condition some(int rows) {
    int from = random.nextInt(3) == 0 ? 0 : random.nextInt(rows);
    long last = random.nextInt(3) == 0 ? rows : from + random.nextInt(rows);
    return switch (random.nextInt(4)) {
      case 0 -> column("a_struct.x").lessThan(random.nextInt(600));
      case 1 -> column("id").in(List.of((long) from, last, (long) from + 3, 0L));
      default -> column("id").between((long) from, last);
    };
  }

  @Property(tries = 10)
  void whatIsNotMeantIsWhatItWas(@ForAll long seed) {
    random = new Random(seed);
    versions.clear();
    MemoryStore store = new MemoryStore();
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(random.nextInt(3)))) {
      int count = 1 + random.nextInt(random.nextInt(4) == 0 ? 25_000 : 3_000);
      Table table =
          lake.createTable(
              "t.all",
              SCHEMA,
              TableSettings.DEFAULTS
                  .with(TableSettings.RANGED_COLUMNS, random.nextInt(40))
                  .with(TableSettings.GROUP_BYTES, random.nextBoolean() ? 100_000 : 10_000_000)
                  .with(TableSettings.FILE_BYTES, 1_000_000));
      table.alter().layout(layout()).run();
      fill(table, 0, count);
      fill(table, count, 1 + count / 3);
      if (random.nextBoolean()) {
        table.delete().where(some(count)).style(ChangeStyle.MASK).run();
        remember(table);
      }
      if (random.nextBoolean()) {
        table.compact().full().run();
        remember(table);
      }
      table.alter().drop("a_map").rename("a_list", "once_a_list").run();
      remember(table);
      for (int i = 1 + random.nextInt(2); i > 0; i--) {
        erase(table, some(count));
      }
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      for (Map.Entry<Long, List<Row>> version : versions.entrySet()) {
        assertThat(rows(table.at(version.getKey())))
            .as("version %d", version.getKey())
            .containsExactlyElementsOf(version.getValue());
      }
    }
  }

  private void erase(Table table, Condition meant) {
    Map<Long, Set<Object>> ids = new HashMap<>();
    long rows = 0;
    for (long version : versions.keySet()) {
      Set<Object> some = new TreeSet<>();
      table
          .at(version)
          .scan()
          .where(meant)
          .columns("id")
          .rows()
          .forEach(row -> some.add(row.get("id")));
      ids.put(version, some);
      rows += some.size();
    }
    if (rows == 0) {
      assertThatThrownBy(() -> table.erase(meant).run()).isInstanceOf(NotFoundException.class);
      return;
    }
    assertThat(table.erase(meant).run().rows()).isPositive();
    versions.replaceAll(
        (version, all) ->
            all.stream().filter(row -> !ids.get(version).contains(row.get("id"))).toList());
  }
}
