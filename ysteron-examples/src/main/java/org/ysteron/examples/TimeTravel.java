package org.ysteron.examples;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.report.TableVersion;

/** Appends day after day, then reads the table as it was, by version and by time. */
public final class TimeTravel {
  private TimeTravel() {}

  /** Takes an empty directory for the lake, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    TideOffice office = new TideOffice(7, 12);
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable("tide.readings", TideOffice.readingsSchema());
      Instant afterDayTwo = Instant.EPOCH;
      for (int day = 0; day < 4; day++) {
        try (Append append = readings.append()) {
          office.readings(day, 1, 30, append::addRecord);
          Instant time = append.commit("day " + (day + 1)).commit().orElseThrow().time();
          afterDayTwo = day == 1 ? time : afterDayTwo;
        }
      }
      for (TableVersion record : readings.history(10)) {
        System.out.printf(
            "version %d  %-8s %5d rows  %s%n",
            record.version(), record.operation(), record.totals().rows(), record.commit().note());
      }
      System.out.println("now:             " + readings.scan().count());
      System.out.println("at version 1:    " + readings.at(1).scan().count());
      System.out.println("after day two:   " + readings.at(afterDayTwo).scan().count());
      System.out.println(
          "the lake then:   " + lake.at(afterDayTwo).table("tide.readings").scan().count());
    }
  }
}
