package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.option.Isolation;
import org.ysteron.store.MemoryStore;
import org.ysteron.task.RowWriter;

/** Whatever takes rows takes them in every form. */
class RowSinkTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("id", Types.BIGINT).notNull(),
              Field.of("level", Types.decimal(6, 1)),
              Field.of("quality", Types.text()).withDefault("good"))
          .withKey("id");

  private final MemoryStore store = new MemoryStore();
  private Lake lake;
  private Table table;

  enum Sink {
    APPEND,
    BUFFERED,
    TRANSACTION,
    NAMED_WRITER,
    TASK,
    MERGE_OF_VALUES,
    MERGE_BY_NAMES
  }

  record Reading(long id, BigDecimal level, String quality) {}

  @BeforeEach
  void makeTable() {
    lake = Lake.create(store);
    table = lake.createTable("tide.readings", SCHEMA);
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private void fill(Sink sink, Consumer<RowSink> rows) {
    switch (sink) {
      case APPEND -> {
        try (Append append = table.append()) {
          rows.accept(append);
          append.commit();
        }
      }
      case BUFFERED -> {
        try (BufferedAppend buffered = table.buffered(BufferedAppend.Limits.standard())) {
          rows.accept(buffered);
        }
      }
      case TRANSACTION ->
          lake.runInTransaction(
              Isolation.SERIALIZABLE, work -> rows.accept(work.table("tide.readings")));
      case NAMED_WRITER -> table.openWriter("gauge").append(1, rows::accept);
      case TASK -> {
        LakeView now = lake.now();
        try (RowWriter writer = now.writeTask("tide.readings").open(store, 0)) {
          rows.accept(writer);
          lake.apply(now.stagedChange().adding(writer.finish()));
        }
      }
      case MERGE_OF_VALUES ->
          table.upsert(MergeSource.values(List.of("id", "level", "quality"), rows::accept)).run();
      case MERGE_BY_NAMES -> table.upsert(MergeSource.named(rows::accept)).run();
    }
  }

  private static Batch batch(long id, BigDecimal level, String quality) {
    Object[] values = {id, level, quality};
    List<Field> columns = SCHEMA.columns();
    Vector[] vectors = new Vector[3];
    for (int c = 0; c < 3; c++) {
      vectors[c] = new VectorBuilder(columns.get(c).type()).single(values[c]);
    }
    return new Batch(SCHEMA.struct(), 1, List.of(vectors));
  }

  @SuppressWarnings("unchecked")
  private static Map<String, Object> object(String json) {
    return (Map<String, Object>) Json.parse(json);
  }

  @ParameterizedTest
  @EnumSource
  void everyFormIsTaken(Sink sink) {
    Type.Struct some = new Type.Struct(List.of(SCHEMA.columns().get(0), SCHEMA.columns().get(1)));
    BigDecimal level = new BigDecimal("2.5");
    fill(
        sink,
        rows ->
            rows.add(1L, level, "poor")
                .addRow(Row.of(some, 2L, level))
                .addRecord(new Reading(3, level, "poor"))
                .addBatch(batch(4, level, "poor"))
                .addObject(object("{\"level\": 2.5, \"id\": 5, \"quality\": null}"))
                .addText(
                    new TextRow(
                        List.of("id", "level", "quality"), new String[] {"6", "2.5", "x"})));
    List<Row> rows = table.scan().rows().toList();
    assertThat(rows.stream().map(row -> row.getLong("id")))
        .containsExactlyInAnyOrder(1L, 2L, 3L, 4L, 5L, 6L);
    assertThat(rows.stream().map(row -> row.getDecimal("level"))).containsOnly(level);
    assertThat(rows.stream().filter(row -> row.isNull("quality")).map(row -> row.getLong("id")))
        .contains(5L);
  }

  record Only(long id) {}

  @ParameterizedTest
  @EnumSource
  void whatARowLacksIsComputedOnceForAll(Sink sink) {
    table.alter().add(Field.of("at", Types.INSTANT).notNull().withDefault(Expression.now())).run();
    Instant before = Instant.now().truncatedTo(ChronoUnit.MICROS);
    Type.Struct some = new Type.Struct(List.of(SCHEMA.columns().get(0)));
    fill(
        sink,
        rows -> {
          if (sink != Sink.MERGE_OF_VALUES) {
            rows.addRecord(new Only(1));
          }
          rows.addRow(Row.of(some, 2L))
              .addObject(object("{\"id\": 3}"))
              .addText(new TextRow(List.of("id"), new String[] {"4"}));
        });
    List<Row> rows = table.scan().rows().toList();
    assertThat(rows).hasSize(sink == Sink.MERGE_OF_VALUES ? 3 : 4);
    assertThat(rows.stream().map(row -> row.getInstant("at")).distinct())
        .singleElement()
        .satisfies(at -> assertThat(at).isBetween(before, Instant.now()));
  }

  /** What a record of a merge lacks does not become the default in rows that match. */
  @Test
  void aRecordOfAMergeChangesWhatItHas() {
    fill(Sink.APPEND, rows -> rows.add(1L, BigDecimal.ONE, "poor"));
    table.upsert(MergeSource.named(rows -> rows.addRecord(new Only(1)))).run();
    table.upsert(MergeSource.records(Only.class, List.of(new Only(1)))).run();
    Row row = table.scan().rows().toList().get(0);
    assertThat(row.getString("quality")).isEqualTo("poor");
    assertThat(row.getDecimal("level")).isEqualByComparingTo(BigDecimal.ONE);
  }

  @ParameterizedTest
  @EnumSource
  void whatDoesNotFitIsRejectedByName(Sink sink) {
    List<Consumer<RowSink>> wrong =
        List.of(
            rows -> rows.add(1L, "much", "poor"),
            rows -> rows.addRow(Row.of(SCHEMA.struct(), 1L, "much", "poor")),
            rows -> rows.addObject(object("{\"id\": 1, \"level\": \"much\"}")),
            rows -> rows.addText(new TextRow(List.of("id", "level"), new String[] {"1", "much"})));
    for (Consumer<RowSink> row : wrong) {
      assertThatThrownBy(() -> fill(sink, row))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("level")
          .hasMessageContaining("much");
    }
    assertThatThrownBy(
            () -> fill(sink, rows -> rows.addObject(object("{\"id\": 1, \"colour\": \"red\"}"))))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("colour");
    assertThat(table.scan().count()).isZero();
  }
}
