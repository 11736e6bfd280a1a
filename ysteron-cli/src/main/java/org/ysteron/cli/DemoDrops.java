package org.ysteron.cli;

import java.io.BufferedWriter;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Json;
import org.ysteron.examples.TideOffice;

/** The files that loggers and offices drop in the demo. */
final class DemoDrops {
  private static final String WRONG_CLOCK = "ORR-12";
  private static final int OBSERVERS = 60;

  private final Path drops;
  private final int gauges;
  private final int days;

  DemoDrops(Path drops, int gauges, int days) {
    this.drops = drops;
    this.gauges = gauges;
    this.days = days;
  }

  void write() throws IOException {
    Files.createDirectories(drops);
    TideOffice office = new TideOffice(7, gauges);
    try (BufferedWriter file = Files.newBufferedWriter(drops.resolve("gauges.jsonl"))) {
      for (TideOffice.Gauge gauge : office.gauges()) {
        file.write(Json.write(json(gauge)) + "\n");
      }
    }
    writeObservers(office, drops.resolve("observers.csv"));
    for (int day = 1; day <= days; day++) {
      writeReadings(office, day, drops.resolve("day-" + day + ".csv"));
    }
    writeLate(office, drops.resolve("late.csv"));
    Files.writeString(
        drops.resolve("register.csv"),
        """
        gauge_id,name,harbour,status
        ORR-03,Gauge North Mole,Hallan Bay,active
        ORR-05,Gauge Old Pier,Vessa,removed
        ORR-41,Gauge New Quay,Sundwick,active
        """);
    Files.writeString(
        drops.resolve("broken.csv"),
        "gauge_id,taken_at,level_cm\nORR-01,2026-03-05T00:00:00Z,412.5\nORR-01,2026-03-05T00:10:00Z,ERR\n");
    writeReadings(office, 7, drops.resolve("day-7.csv"));
    writeFirmware(office, drops.resolve("firmware-2.jsonl"));
    Files.writeString(
        drops.resolve("buoy.jsonl"),
        """
        {"gauge_id":"ORR-21","taken_at":"2026-03-06T12:00:00Z","level_cm":488.2,"quality":"good","wave":{"height_m":0.8,"period_s":6},"turbidity":3}
        {"gauge_id":"ORR-21","taken_at":"2026-03-06T12:10:00Z","level_cm":489.0,"quality":"good","wave":{"height_m":1.1,"period_s":6},"turbidity":"fouled"}
        {"gauge_id":"ORR-21","taken_at":"2026-03-06T12:20:00Z","level_cm":489.9,"quality":"good","wave":{"height_m":1.0,"period_s":7},"turbidity":4}
        """);
  }

  /** The sixth day of ten gauges, once an hour, in millimetres and with more columns. */
  private static void writeFirmware(TideOffice office, Path path) throws IOException {
    try (BufferedWriter file = Files.newBufferedWriter(path)) {
      office.readings(
          5,
          1,
          60,
          reading -> {
            if (reading.gauge_id().compareTo("ORR-31") < 0 || reading.level_cm() == null) {
              return;
            }
            Map<String, Object> health = new LinkedHashMap<>();
            health.put("firmware", "2.1");
            health.put("signal_db", -60 - reading.battery_mv() % 20);
            Map<String, Object> row = new LinkedHashMap<>();
            row.put("gauge_id", reading.gauge_id());
            row.put("taken_at", reading.taken_at().toString());
            row.put("level_mm", reading.level_cm().movePointRight(1).intValue());
            row.put("water_temperature", reading.water_temperature());
            row.put("battery_mv", reading.battery_mv());
            row.put("quality", reading.quality());
            row.put("salinity", 33 + reading.battery_mv() % 30 / 10.0);
            row.put("health", health);
            try {
              file.write(Json.write(row) + "\n");
            } catch (IOException e) {
              throw new UncheckedIOException(e);
            }
          });
    }
  }

  private static Map<String, Object> json(TideOffice.Gauge gauge) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("gauge_id", gauge.gauge_id());
    json.put("name", gauge.name());
    json.put("harbour", gauge.harbour());
    json.put("latitude", gauge.latitude());
    json.put("longitude", gauge.longitude());
    json.put("datum_cm", gauge.datum_cm());
    json.put("installed_on", gauge.installed_on().toString());
    json.put("status", gauge.status());
    List<Object> sensors = new ArrayList<>();
    gauge.sensors().forEach(s -> sensors.add(Map.of("kind", s.kind(), "depth_m", s.depth_m())));
    json.put("sensors", sensors);
    return json;
  }

  private static void writeReadings(TideOffice office, int day, Path path) throws IOException {
    try (BufferedWriter file = Files.newBufferedWriter(path)) {
      file.write("gauge_id,taken_at,level_cm,water_temperature,battery_mv,quality\n");
      office.readings(
          day - 1,
          1,
          10,
          reading -> {
            try {
              file.write(
                  "%s,%s,%s,%s,%d,%s\n"
                      .formatted(
                          reading.gauge_id(),
                          day > 1 && reading.gauge_id().equals(WRONG_CLOCK)
                              ? reading.taken_at().plus(1, ChronoUnit.HOURS)
                              : reading.taken_at(),
                          reading.level_cm() == null ? "" : reading.level_cm(),
                          reading.water_temperature(),
                          reading.battery_mv(),
                          reading.quality()));
            } catch (IOException e) {
              throw new UncheckedIOException(e);
            }
          });
    }
  }

  private static void writeObservers(TideOffice office, Path path) throws IOException {
    try (BufferedWriter file = Files.newBufferedWriter(path)) {
      file.write("observer_id,name,phone,harbour\n");
      for (TideOffice.Observer observer : office.observers(OBSERVERS)) {
        file.write(
            "%d,%s,%s,%s\n"
                .formatted(
                    observer.observer_id(), observer.name(), observer.phone(), observer.harbour()));
      }
    }
  }

  /** Readings of the second day once more, one of them twice, and a few of the fifth. */
  private static void writeLate(TideOffice office, Path path) throws IOException {
    try (BufferedWriter file = Files.newBufferedWriter(path)) {
      file.write("gauge_id,taken_at,level_cm,quality\n");
      for (int day : new int[] {1, 1, 4}) {
        office.readings(
            day,
            1,
            240,
            reading -> {
              if (reading.gauge_id().equals(WRONG_CLOCK)) {
                return; // its logger sent nothing twice
              }
              try {
                file.write(
                    "%s,%s,%s,late\n"
                        .formatted(
                            reading.gauge_id(),
                            reading.taken_at(),
                            reading.level_cm() == null ? "" : reading.level_cm()));
              } catch (IOException e) {
                throw new UncheckedIOException(e);
              }
            });
      }
    }
  }
}
