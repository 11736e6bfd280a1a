package org.ysteron.examples;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.UUID;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.LakeView;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;

/**
 * Computes a bulletin from one state of the lake, keeps the hash of that state with it, goes on
 * appending, and later reads exactly what the bulletin was computed from.
 */
public final class BulletinInputs {
  private BulletinInputs() {}

  /** Takes an empty directory for the lake, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    TideOffice office = new TideOffice(7, 12);
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable("tide.readings", TideOffice.readingsSchema());
      Table bulletins =
          lake.createTable(
              "tide.bulletins",
              Schema.of(
                      Field.of("bulletin", Types.UUID).notNull(),
                      Field.of("computed_at", Types.INSTANT).notNull(),
                      Field.of("inputs_hash", Types.text(64)).notNull(),
                      Field.of("highest_cm", Types.decimal(7, 1)))
                  .withKey("bulletin"));
      append(readings, office, 6);

      LakeView inputs = lake.now();
      BigDecimal highest = highest(inputs.table("tide.readings"));
      try (Append append = bulletins.append()) {
        append.add(UUID.randomUUID(), inputs.commit().time(), inputs.hash(), highest);
        append.commit("bulletin of the morning");
      }
      append(readings, office, 0);

      Row bulletin = bulletins.scan().limit(1).rows().next().orElseThrow();
      LakeView then = lake.at((java.time.Instant) bulletin.get("computed_at"));
      System.out.println("the bulletin said:          " + bulletin.get("highest_cm") + " cm");
      System.out.println(
          "computed again from then:   " + highest(then.table("tide.readings")) + " cm");
      System.out.println(
          "the same inputs:            " + then.hash().equals(bulletin.get("inputs_hash")));
      System.out.println("computed from now:          " + highest(readings.now()) + " cm");
    }
  }

  private static void append(Table readings, TideOffice office, int day) {
    try (Append append = readings.append()) {
      office.readings(day, 1, 10, append::addRecord);
      append.commit("day " + (day + 1));
    }
  }

  private static BigDecimal highest(TableView readings) {
    return readings
        .scan()
        .where(column("quality").equalTo("good"))
        .columns("level_cm")
        .rows()
        .stream()
        .map(row -> (BigDecimal) row.get("level_cm"))
        .reduce(BigDecimal.ZERO, BigDecimal::max);
  }
}
