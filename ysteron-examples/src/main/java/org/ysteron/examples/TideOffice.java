package org.ysteron.examples;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.function.Consumer;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;

/**
 * The sample world: the tide office of the Orrin Sound, an archipelago that does not exist, with
 * its gauges, readings, vessel calls and observers. All of it is made from a seed; the same seed
 * gives the same world. Levels are sums of harmonic constituents, as real tides are, with surge and
 * noise.
 */
public final class TideOffice {
  /** When the readings start. */
  public static final Instant START = Instant.parse("2026-03-01T00:00:00Z");

  private static final String[] HARBOURS = {
    "Orrinmouth",
    "Skelwick",
    "Hallan Bay",
    "Tern Rock",
    "Vessa",
    "Low Quern",
    "Marrow Isle",
    "Brae Haven",
    "Sundwick",
    "Cape Ulley"
  };
  private static final String[] VESSELS = {
    "Silver Petrel",
    "Margit Hale",
    "North Eider",
    "Quern Maid",
    "Old Tobias",
    "Vessa Star",
    "Blue Skerry",
    "Anna Tarn"
  };
  private static final String[] FIRST_NAMES = {
    "Ingo", "Maren", "Tobb", "Elsa", "Runa", "Calder", "Wim", "Petra", "Osk", "Lyra"
  };
  private static final String[] LAST_NAMES = {
    "Hallan", "Tarn", "Skell", "Quern", "Marrow", "Ulley", "Brae", "Tern", "Vess", "Low"
  };

  /** Speeds of the constituents M2, S2, N2, K1, O1 in degrees an hour. */
  private static final double[] SPEEDS = {28.9841042, 30.0, 28.4397295, 15.0410686, 13.9430356};

  private static final double[] HEIGHTS = {148, 52, 31, 12, 9};

  private final long seed;
  private final int gauges;

  /**
   * A world.
   *
   * @param gauges how many gauges; at most 99
   */
  public TideOffice(long seed, int gauges) {
    this.seed = seed;
    this.gauges = gauges;
  }

  /** A sensor of a gauge. */
  public record Sensor(String kind, BigDecimal depth_m) {}

  /** A gauge. */
  public record Gauge(
      String gauge_id,
      String name,
      String harbour,
      Double latitude,
      Double longitude,
      BigDecimal datum_cm,
      LocalDate installed_on,
      String status,
      List<Sensor> sensors) {}

  /** A reading of a gauge. */
  public record Reading(
      String gauge_id,
      Instant taken_at,
      BigDecimal level_cm,
      BigDecimal water_temperature,
      Integer battery_mv,
      String quality) {}

  /** A vessel's call at a harbour. */
  public record Call(
      int call_id, String vessel, String berth, Instant arrival, Instant departure, String pilot) {}

  /** A volunteer. */
  public record Observer(int observer_id, String name, String phone, String harbour) {}

  /** The columns of gauges. */
  public static Schema gaugesSchema() {
    return Schema.of(
            Field.of("gauge_id", Types.text(12)).notNull(),
            Field.of("name", Types.text(60)).notNull(),
            Field.of("harbour", Types.text(40)).notNull(),
            Field.of("latitude", Types.DOUBLE),
            Field.of("longitude", Types.DOUBLE),
            Field.of("datum_cm", Types.decimal(7, 1)),
            Field.of("installed_on", Types.DATE),
            Field.of("status", Types.text(12)).withDefault("active"),
            Field.of(
                "sensors",
                Types.listOf(
                    Types.struct(
                        Field.of("kind", Types.text()), Field.of("depth_m", Types.decimal(5, 2))))))
        .withKey("gauge_id");
  }

  /** The columns of readings. */
  public static Schema readingsSchema() {
    return Schema.of(
            Field.of("gauge_id", Types.text(12)).notNull(),
            Field.of("taken_at", Types.INSTANT).notNull(),
            Field.of("level_cm", Types.decimal(7, 1)),
            Field.of("water_temperature", Types.decimal(4, 1)),
            Field.of("battery_mv", Types.INTEGER),
            Field.of("quality", Types.text(8)))
        .withKey("gauge_id", "taken_at");
  }

  /** The columns of vessel calls. */
  public static Schema callsSchema() {
    return Schema.of(
            Field.of("call_id", Types.INTEGER).notNull(),
            Field.of("vessel", Types.text(40)).notNull(),
            Field.of("berth", Types.text(40)),
            Field.of("arrival", Types.INSTANT).notNull(),
            Field.of("departure", Types.INSTANT),
            Field.of("pilot", Types.text(60)))
        .withKey("call_id");
  }

  /** The columns of observers. */
  public static Schema observersSchema() {
    return Schema.of(
            Field.of("observer_id", Types.INTEGER).notNull(),
            Field.of("name", Types.text(60)).notNull(),
            Field.of("phone", Types.text(20)),
            Field.of("harbour", Types.text(40)))
        .withKey("observer_id");
  }

  /** The id of a gauge by number. */
  public static String gaugeId(int number) {
    return "ORR-%02d".formatted(number + 1);
  }

  /** All gauges. */
  public List<Gauge> gauges() {
    List<Gauge> list = new ArrayList<>();
    for (int g = 0; g < gauges; g++) {
      Random random = new Random((seed * 31 + g) * 0x9E3779B97F4A7C15L);
      String harbour = HARBOURS[g % HARBOURS.length];
      int berth = g / HARBOURS.length + 1;
      list.add(
          new Gauge(
              gaugeId(g),
              harbour + (berth == 1 ? " pier" : " berth " + berth),
              harbour,
              round(58.2 + random.nextDouble(), 4),
              round(-4.9 + random.nextDouble() * 2, 4),
              tenths(1200 + random.nextInt(400)),
              LocalDate.of(2008, 1, 1).plusDays(random.nextInt(6000)),
              g % 13 == 12 ? "on loan" : "active",
              List.of(
                  new Sensor("pressure", hundredths(250 + random.nextInt(300))),
                  new Sensor("thermistor", hundredths(100 + random.nextInt(100))))));
    }
    return list;
  }

  /**
   * Makes the readings of all gauges, one every so many minutes, in the order of time.
   *
   * @param from the first day, counted from {@link #START}
   * @param days how many days
   * @param minutes between two readings of a gauge
   */
  public void readings(int from, int days, int minutes, Consumer<Reading> target) {
    Instant time = START.plus(from, ChronoUnit.DAYS);
    Instant end = time.plus(days, ChronoUnit.DAYS);
    for (; time.isBefore(end); time = time.plus(minutes, ChronoUnit.MINUTES)) {
      for (int g = 0; g < gauges; g++) {
        target.accept(reading(g, time));
      }
    }
  }

  /** The reading of one gauge at one time. */
  public Reading reading(int gauge, Instant time) {
    double hours = ChronoUnit.SECONDS.between(START, time) / 3600.0;
    Random random = new Random(seed ^ (gauge * 0x9E3779B97F4A7C15L) ^ time.getEpochSecond());
    double level = 310;
    for (int c = 0; c < SPEEDS.length; c++) {
      double phase = gauge % HARBOURS.length * 7.0 + c * 40;
      double height = HEIGHTS[c] * (0.85 + 0.03 * (gauge % HARBOURS.length));
      level += height * Math.cos(Math.toRadians(SPEEDS[c] * hours - phase));
    }
    level += 18 * Math.sin(hours / 61.0) + random.nextGaussian() * 1.2;
    double temperature = 7.5 + 2.2 * Math.sin(hours / 24 * 2 * Math.PI / 30) + gauge * 0.02;
    boolean cleaning = random.nextInt(700) == 0;
    return new Reading(
        gaugeId(gauge),
        time,
        cleaning ? null : tenths(Math.round(level * 10)),
        tenths(Math.round((temperature + random.nextGaussian() * 0.1) * 10)),
        12_600 - (int) (hours % 500) - random.nextInt(40),
        cleaning ? "cleaning" : random.nextInt(90) == 0 ? "suspect" : "good");
  }

  /** Vessel calls, in the order of arrival. */
  public List<Call> calls(int count) {
    Random random = new Random(seed + 77);
    List<Call> list = new ArrayList<>();
    Instant arrival = START;
    for (int i = 0; i < count; i++) {
      arrival = arrival.plus(5 + random.nextInt(60), ChronoUnit.MINUTES);
      boolean left = random.nextInt(12) > 0;
      list.add(
          new Call(
              i + 1,
              VESSELS[random.nextInt(VESSELS.length)],
              HARBOURS[random.nextInt(HARBOURS.length)] + " " + (1 + random.nextInt(4)),
              arrival,
              left ? arrival.plus(60 + random.nextInt(900), ChronoUnit.MINUTES) : null,
              name(random)));
    }
    return list;
  }

  /** Volunteers. */
  public List<Observer> observers(int count) {
    Random random = new Random(seed + 99);
    List<Observer> list = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      list.add(
          new Observer(
              i + 1,
              name(random),
              "0555-%04d".formatted(random.nextInt(10_000)),
              HARBOURS[random.nextInt(HARBOURS.length)]));
    }
    return list;
  }

  private static String name(Random random) {
    return FIRST_NAMES[random.nextInt(FIRST_NAMES.length)]
        + " "
        + LAST_NAMES[random.nextInt(LAST_NAMES.length)];
  }

  private static BigDecimal tenths(long value) {
    return BigDecimal.valueOf(value, 1);
  }

  private static BigDecimal hundredths(long value) {
    return BigDecimal.valueOf(value, 2);
  }

  private static double round(double value, int digits) {
    return BigDecimal.valueOf(value)
        .setScale(digits, java.math.RoundingMode.HALF_EVEN)
        .doubleValue();
  }
}
