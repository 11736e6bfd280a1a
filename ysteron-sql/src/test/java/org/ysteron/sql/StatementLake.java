package org.ysteron.sql;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;

/** The lake that the documented statements are about. */
final class StatementLake {
  private static final Type.Struct SENSOR =
      new Type.Struct(
          List.of(Field.of("kind", Types.text(20)), Field.of("depth_m", Types.decimal(5, 2))));
  private static final Type.Struct PLACE =
      new Type.Struct(List.of(Field.of("x", Types.INTEGER), Field.of("y", Types.INTEGER)));

  private StatementLake() {}

  static Lake create(Path directory) {
    Lake lake = Lake.create(directory);
    LakeHandle ada = lake.by("ada", "tests");
    gauges(ada);
    readings(ada);
    odd(ada);
    lake.setPosition("bulletin", "tide.gauges");
    return lake;
  }

  private static void gauges(LakeHandle lake) {
    Table table =
        lake.createTable(
            "tide.gauges",
            Schema.of(
                    Field.of("gauge_id", Types.text(12)).notNull(),
                    Field.of("name", Types.text(60)),
                    Field.of("harbour", Types.text(40)),
                    Field.of("datum_cm", Types.decimal(7, 1)),
                    Field.of("installed_on", Types.DATE),
                    Field.of("place", PLACE),
                    Field.of("sensors", Types.listOf(SENSOR)),
                    Field.of("labels", Types.mapOf(Types.text(), Types.text())))
                .withKey("gauge_id"));
    try (Append append = table.append()) {
      append.add(
          gauge("ORR-01", "Orrinmouth pier", "Orrinmouth", "146.0", 1, "pressure", "thermistor"));
      append.add(gauge("ORR-02", "Skelwick pier", "Skelwick", "129.5", 2, "pressure"));
      append.add(gauge("ORR-03", "Vessa mole", "Vessa", "131.5", 3));
      append.add(gauge("ORR-04", "Vessa light", "Vessa", "150.0", 4, "radar"));
      append.add(gauge("ORR-05", "Old pier", "Orrinmouth", "140.2", 5, "pressure"));
      append.commit();
    }
  }

  private static Object[] gauge(
      String id, String name, String harbour, String datum, int number, String... sensors) {
    List<Row> rows = new ArrayList<>();
    for (String sensor : sensors) {
      rows.add(
          Row.of(
              SENSOR,
              sensor,
              new BigDecimal("1.25")
                  .multiply(new BigDecimal(number))
                  .setScale(2, RoundingMode.UNNECESSARY)));
    }
    Map<String, String> labels = new LinkedHashMap<>();
    if (number == 1) {
      labels.put("owner", "harbour master");
      labels.put("paint", "red");
    }
    return new Object[] {
      id,
      name,
      harbour,
      new BigDecimal(datum),
      number == 5 ? null : LocalDate.of(2010 + number, 3, number),
      number == 4 ? null : Row.of(PLACE, number, 10 * number),
      number == 3 ? null : rows,
      labels
    };
  }

  private static void readings(LakeHandle lake) {
    Table table =
        lake.createTable(
            "tide.readings",
            Schema.of(
                    Field.of("gauge_id", Types.text(12)).notNull(),
                    Field.of("taken_at", Types.INSTANT).notNull(),
                    Field.of("level_cm", Types.decimal(7, 1)),
                    Field.of("water_c", Types.DOUBLE),
                    Field.of("battery_mv", Types.INTEGER),
                    Field.of("quality", Types.text(10)))
                .withKey("gauge_id", "taken_at"));
    try (Append append = table.append()) {
      append.add(reading("ORR-01", 1, 0, "101.5", 7.5, 3600, "good"));
      append.add(reading("ORR-01", 1, 12, "260.0", null, 3590, "good"));
      append.add(reading("ORR-01", 2, 0, "99.0", 7.25, 3580, "good"));
      append.add(reading("ORR-02", 1, 0, "180.5", 8.0, 3100, "good"));
      append.add(reading("ORR-02", 1, 12, "301.0", 8.5, 3090, "suspect"));
      append.add(reading("ORR-02", 2, 0, null, 8.25, 3080, "suspect"));
      append.add(reading("ORR-03", 1, 0, "120.0", 6.5, 2900, "good"));
      append.add(reading("ORR-03", 2, 12, "240.5", 6.75, 2890, null));
      append.commit();
    }
    table.bookmark("first");
    try (Append append = table.append()) {
      append.add(reading("ORR-04", 3, 0, "95.5", 7.0, 3300, "good"));
      append.add(reading("ORR-04", 3, 12, "255.0", 7.0, 3290, "good"));
      append.commit();
    }
    lake.bookmark("whole");
    table
        .update()
        .set("level_cm", Expression.column("level_cm").plus(12))
        .where(Expression.column("gauge_id").equalTo("ORR-03"))
        .run();
    table.delete().where(Expression.column("battery_mv").equalTo(3290)).run();
    Condition sane = Expression.column("level_cm").lessThan(2000);
    lake.noting("levels are below 20 m").table("tide.readings").alter().check("sane", sane).run();
  }

  private static Object[] reading(
      String gauge,
      int day,
      int hour,
      String level,
      Double water,
      Integer battery,
      String quality) {
    Instant taken = LocalDateTime.of(2026, 3, day, hour, 0).toInstant(ZoneOffset.UTC);
    BigDecimal height = level == null ? null : new BigDecimal(level);
    return new Object[] {gauge, taken, height, water, battery, quality};
  }

  private static void odd(LakeHandle lake) {
    Table table =
        lake.createTable(
            "tide.odd",
            Schema.of(
                Field.of("id", Types.INTEGER),
                Field.of("i", Types.INTEGER),
                Field.of("b", Types.BIGINT),
                Field.of("w", Types.decimal(38, 0)),
                Field.of("x", Types.DOUBLE),
                Field.of("t", Types.text(20)),
                Field.of("at_", Types.TIMESTAMP),
                Field.of("tm", Types.TIME),
                Field.of("o", Types.BOOLEAN)));
    BigDecimal most = new BigDecimal(BigInteger.TEN.pow(38).subtract(BigInteger.ONE));
    LocalDateTime time = LocalDateTime.of(2026, 3, 1, 23, 59, 59, 999_999_000);
    try (Append append = table.append()) {
      append.add(1, 5, 5L, BigDecimal.ONE, 0.0, "a", time, LocalTime.of(23, 45), true);
      append.add(2, -5, 7L, BigDecimal.TEN, -0.0, "😀", time.plusNanos(1000), null, false);
      append.add(
          3, Integer.MAX_VALUE, Long.MAX_VALUE, most, Double.NaN, "\uFFFD", null, null, null);
      append.add(4, Integer.MIN_VALUE, Long.MIN_VALUE, null, -1.5, "Zoë", null, null, true);
      append.add(5, null, null, null, Double.POSITIVE_INFINITY, "", null, null, false);
      append.add(6, 0, 0L, BigDecimal.ZERO, null, null, null, null, null);
      append.commit();
    }
  }
}
