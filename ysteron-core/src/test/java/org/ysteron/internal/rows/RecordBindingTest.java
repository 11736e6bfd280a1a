package org.ysteron.internal.rows;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;

class RecordBindingTest {
  private static final Type.Struct STRUCT =
      (Type.Struct)
          Types.struct(
              Field.of("id", Types.INTEGER).notNull(),
              Field.of("level", Types.decimal(5, 1)),
              Field.of("status", Types.text()).withDefault("new"),
              Field.of(
                  "sensors", Types.listOf(Types.struct(Field.of("kind", Types.text()).notNull()))),
              Field.of("at", Types.struct(Field.of("x", Types.DOUBLE))),
              Field.of("by", Types.mapOf(Types.text(), Types.struct(Field.of("n", Types.BIGINT)))));

  record Sensor(String kind) {}

  record At(Double x) {}

  record Count(Long n) {}

  record Gauge(int id, BigDecimal level, List<Sensor> sensors, At at, Map<String, Count> by) {}

  record Narrow(int id) {}

  record Primitive(int id, double level) {}

  record Stranger(int id, String colour) {}

  record WrongType(int id, Integer level) {}

  record Lacking(BigDecimal level) {}

  record Flat(int id, String at) {}

  @Test
  void nestedRecordsGoInAndComeOut() {
    RecordBinding<Gauge> binding = RecordBinding.forWriting(Gauge.class, STRUCT);
    Gauge gauge =
        new Gauge(
            7,
            new BigDecimal("1.5"),
            List.of(new Sensor("pressure"), new Sensor("radar")),
            new At(2.5),
            Map.of("k", new Count(3L)));
    Object[] values = binding.values(gauge);
    assertThat(values[2]).isEqualTo("new");
    assertThat(((Row) ((List<?>) values[3]).get(1)).get("kind")).isEqualTo("radar");
    Row row = (Row) Values.accept(Row.of(STRUCT, values), STRUCT);
    assertThat(RecordBinding.forReading(Gauge.class, STRUCT).toRecord(row)).isEqualTo(gauge);
  }

  @Test
  void nullsStayNull() {
    RecordBinding<Gauge> binding = RecordBinding.forWriting(Gauge.class, STRUCT);
    Gauge gauge = new Gauge(7, null, null, null, null);
    Row row = Row.of(STRUCT, binding.values(gauge));
    assertThat(binding.toRecord(row)).isEqualTo(gauge);
  }

  @Test
  void readingMayTakeFewerColumns() {
    Row row = Row.of(STRUCT, 7, null, null, null, null, null);
    assertThat(RecordBinding.forReading(Narrow.class, STRUCT).toRecord(row))
        .isEqualTo(new Narrow(7));
  }

  @Test
  void recordsThatDoNotFitAreRefusedOnceAndByName() {
    assertThatThrownBy(() -> RecordBinding.forWriting(Primitive.class, STRUCT))
        .hasMessageContaining("Component level of record Primitive is double")
        .hasMessageContaining("may be null; make it Double");
    assertThatThrownBy(() -> RecordBinding.forWriting(Stranger.class, STRUCT))
        .hasMessageContaining("has a component colour, but there is no such column");
    assertThatThrownBy(() -> RecordBinding.forReading(WrongType.class, STRUCT))
        .hasMessageContaining("is an Integer, but column level is DECIMAL(5, 1)");
    assertThatThrownBy(() -> RecordBinding.forWriting(Lacking.class, STRUCT))
        .hasMessageContaining("has no component for column id, which is NOT NULL");
    assertThatThrownBy(() -> RecordBinding.forReading(Flat.class, STRUCT))
        .hasMessageContaining("Component at of record Flat is a String");
  }
}
