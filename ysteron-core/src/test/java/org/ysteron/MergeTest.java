package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;

/** What merges do and refuse. */
class MergeTest {
  private final Lake lake = Lake.create(new MemoryStore());
  private Table table;

  @BeforeEach
  void makeTable() {
    table =
        lake.createTable(
            "t.gauges",
            Schema.of(
                    Field.of("id", Types.INTEGER),
                    Field.of("name", Types.text(8)),
                    Field.of("depth", Types.DOUBLE).withDefault(1.5))
                .withKey("id"));
    try (Append append = table.append()) {
      append.add(1, "one", 1.0).add(2, "two", 2.0).add(3, null, 3.0);
      append.commit();
    }
  }

  private Map<Integer, String> rows() {
    Map<Integer, String> rows = new TreeMap<>();
    for (Row row : table.scan().rows()) {
      rows.put((Integer) row.get("id"), row.get("name") + " " + row.get("depth"));
    }
    return rows;
  }

  private static MergeSource source(Object[]... rows) {
    return MergeSource.values(
        List.of("id", "name"),
        to -> {
          for (Object[] row : rows) {
            to.add(row);
          }
        });
  }

  private static Object[] row(Object... values) {
    return values;
  }

  @Test
  void anUpsertKeepsColumnsThatTheSourceLacks() {
    ChangeReport report = table.upsert(source(row(2, "zwei"), row(7, "sieben"))).run().report();
    assertThat(report.rowsMatched()).isEqualTo(1);
    assertThat(report.rowsUpdated()).isEqualTo(1);
    assertThat(report.rowsInserted()).isEqualTo(1);
    assertThat(rows()).containsEntry(2, "zwei 2.0").containsEntry(7, "sieben 1.5").hasSize(4);
    long version = table.now().version();
    WriteResult again =
        table.upsert(source(row(2, "zwei"), row(7, "sieben"))).onlyDifferent().run();
    assertThat(again.report().isNothing()).isTrue();
    assertThat(table.now().version()).isEqualTo(version);
    table.upsert(source(row(2, "zwei"), row(7, "sieben"))).run();
    assertThat(rows()).containsEntry(2, "zwei 2.0").containsEntry(7, "sieben 1.5").hasSize(4);
  }

  @Test
  void clausesAreTriedInTheirOrder() {
    table
        .merge(source(row(1, "x"), row(2, "gone"), row(8, "no"), row(9, "yes")))
        .matched((old, given) -> "gone".equals(given.get("name")), Merge.delete())
        .matched(
            Merge.setBy(Map.of("name", (old, given) -> old.get("name") + "/" + given.get("name"))))
        .unmatched(given -> "yes".equals(given.get("name")), Merge.takeAll())
        .notInSource(
            old -> old.get("name") == null, Merge.setBy(Map.of("name", (old, x) -> "lost")))
        .run();
    assertThat(rows())
        .containsOnly(Map.entry(1, "one/x 1.0"), Map.entry(3, "lost 3.0"), Map.entry(9, "yes 1.5"));
  }

  @Test
  void nullMatchesNothing() {
    ChangeReport report =
        table
            .merge(source(row(10, "one"), row(11, null), row(12, null)))
            .on("name")
            .matched(Merge.delete())
            .unmatched(Merge.takeAll())
            .run()
            .report();
    assertThat(report.rowsDeleted()).isEqualTo(1);
    assertThat(report.rowsInserted()).isEqualTo(2);
    assertThat(rows()).containsOnlyKeys(2, 3, 11, 12);
  }

  @Test
  void oneSourceRowMayMatchManyRows() {
    table
        .merge(source(row(2, "two"), row(1, "two")))
        .on("name")
        .lastWins()
        .matched(Merge.take("name"))
        .run();
    table.update().all().set("name", "same").run();
    ChangeReport report =
        table.merge(source(row(0, "same"))).on("name").matched(Merge.delete()).run().report();
    assertThat(report.rowsDeleted()).isEqualTo(3);
  }

  @Test
  void twoSourceRowsOfOneKeyAreNamedUnlessOneWins() {
    Object[][] twice = {row(5, "a"), row(2, "b"), row(5, "c"), row(2, "bb")};
    assertThatThrownBy(() -> table.upsert(source(twice)).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessage(
            "Rows 1 and 3 of the source have the same key, id = 5. Nothing was changed; remove one of them, or use the last row or the row with the largest value of a column.");
    table.upsert(source(twice)).lastWins().run();
    assertThat(rows()).containsEntry(5, "c 1.5").containsEntry(2, "bb 2.0");
    table.upsert(source(row(5, "z"), row(5, "y"), row(5, null))).maxWins("name").run();
    assertThat(rows()).containsEntry(5, "z 1.5");
    assertThatThrownBy(() -> table.upsert(source(twice)).maxWins("nmae").run())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("Did you mean name?");
  }

  @Test
  void aSourceMayBeATableRowsRecordsOrBatches() {
    Table other = lake.createTable("t.other", table.schema());
    other.upsert(MergeSource.scan(table.scan())).run();
    assertThat(other.scan().count()).isEqualTo(3);
    other.update().all().set("name", "new").run();
    table.upsert(MergeSource.scan(other.at(1).scan())).run();
    assertThat(rows()).containsEntry(1, "one 1.0");
    table.upsert(MergeSource.rows(other.scan().rows().toList())).run();
    assertThat(rows()).containsEntry(1, "new 1.0");
    record Gauge(Integer id, String name) {}
    table.upsert(MergeSource.records(Gauge.class, List.of(new Gauge(4, "four")))).run();
    assertThat(rows()).containsEntry(4, "four 1.5");
    var batches = other.scan().batches().toList();
    table.upsert(MergeSource.batches(other.schema().struct(), batches)).run();
    assertThat(rows()).hasSize(4);
    table.merge(MergeSource.scan(table.scan())).notInSource(Merge.delete()).run();
    assertThat(rows()).hasSize(4);
  }

  @Test
  void aSourceMayHaveColumnsForClausesOnly() {
    Type.Struct columns =
        new Type.Struct(List.of(Field.of("id", Types.INTEGER), Field.of("gone", Types.BOOLEAN)));
    table
        .merge(MergeSource.rows(List.of(Row.of(columns, 1, true), Row.of(columns, 2, false))))
        .matched((old, given) -> Boolean.TRUE.equals(given.get("gone")), Merge.delete())
        .run();
    assertThat(rows()).containsOnlyKeys(2, 3);
    assertThatThrownBy(
            () -> table.upsert(MergeSource.rows(List.of(Row.of(columns, 1, true)))).run())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("The source has a column gone, which the table does not have.");
  }

  @Test
  void whatCannotBeIsRefused() {
    assertThatThrownBy(
            () ->
                table
                    .merge(source(row(1, "x")))
                    .matched(Merge.takeAll())
                    .matched((a, b) -> true, Merge.delete())
                    .run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("A merge clause for rows matched follows one without a condition");
    assertThatThrownBy(() -> table.merge(source(row(1, "x"))).run())
        .hasMessage("A merge needs at least one clause.");
    assertThatThrownBy(() -> table.merge(source(row(1, "x"))).unmatched(Merge.delete()).run())
        .hasMessageContaining("cannot delete, because there is no row of the table");
    assertThatThrownBy(() -> table.upsert(source(row(1, "x"))).on("depth").run())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("matched on depth, which the source does not have");
    assertThatThrownBy(() -> table.upsert(source(row(1, "x"), row("2", "y"))).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Row 2 of the source, column id (INTEGER)");
    assertThatThrownBy(() -> table.upsert(source(row(1, "far too long"))).run())
        .hasMessageContaining("column name (VARCHAR(8))");
    assertThatThrownBy(
            () -> table.upsert(MergeSource.values(List.of("id", "nmae"), to -> {})).run())
        .hasMessageContaining("Did you mean name?");
    assertThatThrownBy(
            () ->
                table
                    .upsert(
                        MergeSource.values(
                            List.of("id", "name"),
                            to -> {
                              to.add(row(1, "x"));
                              throw new IllegalStateException("the source broke");
                            }))
                    .run())
        .hasMessage("the source broke");
    assertThat(table.now().version()).isEqualTo(1);
  }

  @Test
  void aSourceLargerThanMemoryIsSpilled() {
    int count = 900_000;
    ChangeReport report =
        table
            .upsert(
                MergeSource.values(
                    List.of("id", "name", "depth"),
                    to -> {
                      for (int i = 0; i < count; i++) {
                        to.add(row(count - i, "n" + i % 1000, i / 2.0));
                      }
                    }))
            .run()
            .report();
    assertThat(report.rowsUpdated()).isEqualTo(3);
    assertThat(report.rowsInserted()).isEqualTo(count - 3);
    assertThat(table.scan().count()).isEqualTo(count);
    List<Integer> first = new ArrayList<>();
    table.scan().limit(2).rows().forEach(row -> first.add((Integer) row.get("id")));
    assertThat(first).containsExactly(count, count - 1);
  }
}
