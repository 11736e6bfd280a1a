package org.ysteron.examples;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Results;
import org.ysteron.examples.TideOffice.Reading;

/** Makes a lake, appends Java records, and reads some of them back as records. */
public final class RecordsInAndOut {
  private RecordsInAndOut() {}

  /** Takes an empty directory for the lake, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable("tide.readings", TideOffice.readingsSchema());
      try (Append append = readings.append()) {
        new TideOffice(7, 12).readings(0, 3, 10, append::addRecord);
        append.commit("three days of twelve gauges");
      }
      System.out.println(readings.scan().count() + " readings in " + directory);
      try (Results<Reading> high =
          readings
              .scan()
              .where(column("gauge_id").equalTo("ORR-03").and(column("level_cm").greaterThan(510)))
              .limit(5)
              .records(Reading.class)) {
        for (Reading reading : high) {
          System.out.println("  " + reading.taken_at() + "  " + reading.level_cm() + " cm");
        }
      }
    }
  }
}
