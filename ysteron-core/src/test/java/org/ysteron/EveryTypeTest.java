package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

class EveryTypeTest {
  @TempDir Path directory;
  private final Schema schema = RandomRows.everyType();

  private List<Row> fill(Table table, int count, long seed) {
    RandomRows random = new RandomRows(seed);
    List<Row> rows = new ArrayList<>();
    try (Append append = table.append()) {
      for (int i = 0; i < count; i++) {
        Object[] values = random.row(schema, i);
        append.add(values);
        rows.add(Row.of(schema.struct(), values));
      }
      append.commit();
    }
    return rows;
  }

  @ParameterizedTest
  @CsvSource({"1, 100000000, 1", "2500, 100000000, 2", "20000, 200000, 2", "60000, 100000000, 1"})
  void everyValueComesBack(int count, long groupBytes, int threads) {
    Lake lake = Lake.create(new MemoryStore(), LakeOptions.DEFAULTS.threads(threads));
    Table table =
        lake.createTable(
            "t.all",
            schema,
            TableSettings.DEFAULTS
                .with(TableSettings.GROUP_BYTES, groupBytes)
                .with(TableSettings.FILE_BYTES, groupBytes * 3));
    List<Row> rows = fill(table, count, 7);
    int at = 0;
    for (Row row : table.scan().rows()) {
      assertThat(row).isEqualTo(rows.get(at++));
    }
    assertThat(at).isEqualTo(count);
    assertThat(table.now().files()).hasSizeGreaterThanOrEqualTo(groupBytes < 1_000_000 ? 2 : 1);
  }

  @Test
  void pageSkippingKeepsColumnsAligned() {
    Lake lake = Lake.create(new MemoryStore());
    Table table = lake.createTable("t.all", schema);
    List<Row> rows = fill(table, 50_000, 11);
    for (long from : List.of(0L, 19_990L, 20_000L, 33_333L, 49_999L)) {
      Condition range = Condition.column("id").between(from, from + 25);
      List<Row> expected = rows.subList((int) from, (int) Math.min(rows.size(), from + 26));
      assertThat(table.scan().where(range).rows().stream()).containsExactlyElementsOf(expected);
    }
    Condition two = Condition.column("id").in(List.of(5L, 20_001L, 49_000L));
    assertThat(table.scan().where(two).rows().stream())
        .containsExactly(rows.get(5), rows.get(20_001), rows.get(49_000));
    assertThat(table.scan().where(two).explain().runs().skipped()).isEqualTo(0);
    assertThat(table.scan().where(Condition.column("id").equalTo(5L)).explain().runs().skipped())
        .isGreaterThan(0);
  }

  @Test
  void nestedColumnsAreReadByPath() {
    Lake lake = Lake.create(new MemoryStore());
    Table table = lake.createTable("t.all", schema);
    List<Row> rows = fill(table, 3_000, 13);
    int at = 0;
    for (Row row : table.scan().columns("a_struct.inner.y", "id").rows()) {
      Row struct = (Row) rows.get(at++).get("a_struct");
      Row read = (Row) row.get("a_struct");
      assertThat(read == null).isEqualTo(struct == null);
      if (struct != null) {
        assertThat(read.get("inner")).isEqualTo(struct.get("inner"));
        assertThat(read.fields()).hasSize(1);
      }
    }
    Condition nested = Condition.column("a_struct.x").greaterThan(400);
    long expected =
        rows.stream()
            .map(row -> (Row) row.get("a_struct"))
            .filter(row -> row != null && (Integer) row.get("x") > 400)
            .count();
    assertThat(table.scan().where(nested).columns("id").rows().stream()).hasSize((int) expected);
  }

  @Test
  void batchesGoInAsTheyCameOut() {
    Lake lake = Lake.create(new MemoryStore());
    Table table = lake.createTable("t.all", schema);
    List<Row> rows = fill(table, 5_000, 17);
    Table copy = lake.createTable("t.copy", schema);
    try (Append append = copy.append()) {
      for (Batch batch : table.scan().batches()) {
        append.addBatch(batch);
      }
      append.commit();
    }
    assertThat(copy.scan().rows().stream()).containsExactlyElementsOf(rows);
  }

  @Test
  void anotherParquetReaderSeesTheSame() throws SQLException {
    Lake lake = Lake.create(directory.resolve("lake"));
    Table table = lake.createTable("t.all", schema);
    List<Row> rows = fill(table, 4_000, 19);
    TableView now = table.now();
    try (Connection duck = DriverManager.getConnection("jdbc:duckdb:");
        Statement statement = duck.createStatement()) {
      for (FileEntry file : now.entries()) {
        String path = directory.resolve("lake").resolve(file.objectName(table.id())).toString();
        String from = " FROM read_parquet('" + path + "')";
        try (ResultSet all =
            statement.executeQuery(
                "SELECT count(*), sum(an_integer), sum(a_decimal), sum(a_wide_decimal),"
                    + " count(a_text), count(a_struct), sum(len(a_list)), sum(a_struct.x),"
                    + " count(*) FILTER (a_list IS NULL), sum(len(sensors)),"
                    + " max(an_instant)::VARCHAR, min(a_date)::VARCHAR"
                    + from)) {
          all.next();
          assertThat(all.getLong(1)).isEqualTo(rows.size());
          assertThat(all.getLong(2))
              .isEqualTo(values(rows, "an_integer").mapToLong(v -> (Integer) v).sum());
          assertThat(all.getBigDecimal(3)).isEqualByComparingTo(sum(rows, "a_decimal"));
          assertThat(all.getDouble(4))
              .isEqualTo(sum(rows, "a_wide_decimal").doubleValue(), offset(rows));
          assertThat(all.getLong(5)).isEqualTo(values(rows, "a_text").count());
          assertThat(all.getLong(6)).isEqualTo(values(rows, "a_struct").count());
          assertThat(all.getLong(7))
              .isEqualTo(values(rows, "a_list").mapToLong(v -> ((List<?>) v).size()).sum());
          assertThat(all.getLong(8))
              .isEqualTo(
                  values(rows, "a_struct").mapToLong(v -> (Integer) ((Row) v).get("x")).sum());
          assertThat(all.getLong(9)).isEqualTo(rows.size() - values(rows, "a_list").count());
          assertThat(all.getLong(10))
              .isEqualTo(values(rows, "sensors").mapToLong(v -> ((List<?>) v).size()).sum());
        }
        try (ResultSet each =
            statement.executeQuery(
                "SELECT id, a_text, a_uuid::VARCHAR, a_struct.inner.y, len(matrix), a_map['k1']"
                    + from
                    + " ORDER BY id")) {
          for (Row row : rows) {
            each.next();
            assertThat(each.getLong(1)).isEqualTo(row.get("id"));
            assertThat(each.getString(2)).isEqualTo(row.get("a_text"));
            Object uuid = row.get("a_uuid");
            assertThat(each.getString(3)).isEqualTo(uuid == null ? null : uuid.toString());
            Row struct = (Row) row.get("a_struct");
            Row inner = struct == null ? null : (Row) struct.get("inner");
            assertThat(each.getString(4)).isEqualTo(inner == null ? null : inner.get("y"));
            List<?> matrix = (List<?>) row.get("matrix");
            assertThat(each.getObject(5)).isEqualTo(matrix == null ? null : (long) matrix.size());
          }
        }
        try (ResultSet ids =
            statement.executeQuery(
                "SELECT count(*) FROM parquet_schema('"
                    + path
                    + "') WHERE field_id IS NULL"
                    + " AND name NOT IN ('row', 'list', 'key_value')")) {
          ids.next();
          assertThat(ids.getLong(1)).isZero();
        }
      }
    }
  }

  private static org.assertj.core.data.Offset<Double> offset(List<Row> rows) {
    return org.assertj.core.data.Offset.offset(
        Math.abs(sum(rows, "a_wide_decimal").doubleValue()) * 1e-12);
  }

  private static java.util.stream.Stream<Object> values(List<Row> rows, String column) {
    return rows.stream().map(row -> row.get(column)).filter(java.util.Objects::nonNull);
  }

  private static java.math.BigDecimal sum(List<Row> rows, String column) {
    return values(rows, column)
        .map(java.math.BigDecimal.class::cast)
        .reduce(java.math.BigDecimal.ZERO, java.math.BigDecimal::add);
  }
}
