package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.Drift;
import org.ysteron.option.TableSettings;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;

/** Merges and upserts by which a table grows. */
class GrowingMergeTest {
  private final MemoryStore store = new MemoryStore();

  @SuppressWarnings("unchecked") // JSON objects have text for names
  private static Map<String, Object> object(String json) {
    return (Map<String, Object>) Json.parse(json);
  }

  private static final Schema NUMBERED =
      Schema.of(
              Field.of("id", Types.INTEGER).notNull(),
              Field.of("level", Types.INTEGER).notNull(),
              Field.of("ratio", Types.REAL))
          .withKey("id");

  private final Lake lake = Lake.create(store);
  private final Table table = lake.createTable("t.grown", NUMBERED);

  private List<String> read() {
    List<String> rows = new ArrayList<>();
    table.scan().rows().forEach(row -> rows.add(row.toString()));
    return rows;
  }

  private List<Object> values(String column) {
    List<Object> values = new ArrayList<>();
    table.scan().columns(column).rows().forEach(row -> values.add(row.get(0)));
    return values;
  }

  private static Row row(List<Field> fields, Object... values) {
    return Row.of(new Type.Struct(fields), values);
  }

  private static MergeSource named(Object... rows) {
    return MergeSource.named(
        target -> {
          for (Object row : rows) {
            if (row instanceof TextRow texts) {
              target.addText(texts);
            } else {
              target.addObject(object((String) row));
            }
          }
        });
  }

  private void fill() {
    try (Append append = table.append()) {
      append.add(1, 10, 0.5f).add(2, 20, null);
      append.commit();
    }
  }

  @Test
  void anUpsertGrowsTheTable() {
    fill();
    TextRow texts = new TextRow(List.of("id", "level", "gust"), new String[] {"3", "1", "8.25"});
    WriteResult merged =
        table
            .upsert(named("{\"id\": 2, \"level\": 2.5, \"gust\": 7}", texts))
            .rules(rules -> rules.with(Drift.GROW))
            .run();
    assertThat(merged.grown().columns().toString())
        .isEqualTo(
            "[widened column level from INTEGER to DOUBLE PRECISION, added column gust DOUBLE PRECISION]");
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=10.0, ratio=0.5, gust=null}",
            "{id=2, level=2.5, ratio=null, gust=7.0}",
            "{id=3, level=1.0, ratio=null, gust=8.25}");
    assertThat(table.now().version()).isEqualTo(2);
    assertThat(table.now().record().operation()).isEqualTo("grow + upsert");
  }

  @Test
  void columnsThatNoRowOfTheSourceHasKeepTheirValues() {
    fill();
    table.alter().set(TableSettings.DRIFT, "set_aside").run();
    table
        .upsert(named("{\"id\": 1, \"level\": 11, \"odd\": [1]}", "{\"id\": 2, \"level\": 21}"))
        .run();
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=11, ratio=0.5, leftovers={\"odd\":[1]}}",
            "{id=2, level=21, ratio=null, leftovers=null}");
    table.upsert(named("{\"id\": 1, \"level\": 12}")).run();
    assertThat(values("leftovers")).containsExactlyInAnyOrder("{\"odd\":[1]}", null);
    assertThatThrownBy(() -> table.upsert(named("{\"id\": 9}")).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("level");
    assertThatThrownBy(
            () ->
                table
                    .upsert(named("{\"id\": 1, \"odd\": 1}"))
                    .rules(rules -> rules.with(Drift.STRICT))
                    .run())
        .hasMessageContaining("Row 1: there is no column odd");
  }

  @Test
  void sourcesWithTypesGrowTablesToo() {
    fill();
    Row given =
        row(
            List.of(
                Field.of("id", Types.INTEGER),
                Field.of("level", Types.BIGINT),
                Field.of("seen", Types.DATE)),
            2,
            5_000_000_000L,
            java.time.LocalDate.of(2026, 3, 1));
    assertThatThrownBy(() -> table.upsert(MergeSource.rows(List.of(given))).run())
        .hasMessageContaining("level");
    table.alter().set(TableSettings.DRIFT, "grow").run();
    table.upsert(MergeSource.rows(List.of(given))).run();
    assertThat(values("level")).containsExactlyInAnyOrder(10L, 5_000_000_000L);
    Table copy = lake.createTable("t.copy", NUMBERED);
    copy.alter().set(TableSettings.DRIFT, "grow").run();
    copy.upsert(MergeSource.scan(table.scan())).run();
    assertThat(copy.schema().columns()).isEqualTo(table.schema().columns());
    assertThat(copy.scan().rows().toList()).isEqualTo(table.scan().rows().toList());
  }

  @Test
  void aMergeThatRunsAgainGrowsTheTableOfThen() {
    fill();
    List<Integer> reads = new ArrayList<>();
    MergeSource source =
        MergeSource.named(
            target -> {
              reads.add(1);
              target.addObject(object("{\"id\": 2, \"level\": 3000000000, \"gust\": 1}"));
              // Another widens, renames and changes the row between the reading and the merge.
              table.alter().widen("level", Types.decimal(19, 0)).rename("ratio", "share").run();
              table.update().all().set("share", 0.25f).run();
            });
    table.upsert(source).rules(rules -> rules.with(Drift.GROW)).run();
    assertThat(reads).hasSize(1);
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=10, share=0.25, gust=null}",
            "{id=2, level=3000000000, share=0.25, gust=1}");
  }

  @Test
  void aMergeInATransactionGrowsItOrLeavesNothing() {
    fill();
    try (Transaction transaction = lake.begin()) {
      TransactionTable inside = transaction.table("t.grown");
      assertThatThrownBy(
              () ->
                  inside
                      .upsert(
                          named("{\"id\": 1, \"level\": 1, \"x\": 1}", "{\"id\": 1, \"level\": 2}"))
                      .rules(rules -> rules.with(Drift.GROW))
                      .run())
          .isInstanceOf(InvalidInputException.class);
      assertThat(inside.schema().columns()).hasSize(3);
      inside
          .upsert(named("{\"id\": 1, \"level\": 1, \"x\": 1}"))
          .rules(rules -> rules.with(Drift.GROW))
          .run();
      inside
          .upsert(named("{\"id\": 1, \"level\": 1, \"x\": 1.5}"))
          .rules(rules -> rules.with(Drift.GROW))
          .run();
      transaction.commit();
    }
    assertThat(read())
        .containsExactlyInAnyOrder(
            "{id=1, level=1, ratio=0.5, x=1.5}", "{id=2, level=20, ratio=null, x=null}");
  }
}
