package org.ysteron.internal.compute;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;

/** What is read digit by digit is what the slower way reads, and what it writes is read again. */
class TextTimesTest {
  private static final List<Type> TYPES =
      List.of(Types.DATE, Types.TIME, Types.TIMESTAMP, Types.INSTANT);
  private static final String SIGNS = "0123456789-:. TtZz+/xé";

  private final Random random = new Random(Long.getLong("ysteron.seed", System.nanoTime()));
  private final TextTimes times = new TextTimes();
  private final Held out = new Held();

  private Object value(Type type) {
    LocalDate day = LocalDate.of(1 + random.nextInt(9999), 1, 1).plusDays(random.nextInt(365));
    LocalTime time =
        random.nextInt(4) == 0
            ? LocalTime.of(random.nextInt(24), 0)
            : LocalTime.ofNanoOfDay(1000L * random.nextLong(86_400_000_000L))
                .truncatedTo(random.nextBoolean() ? ChronoUnit.MICROS : ChronoUnit.SECONDS);
    if (type == Types.DATE) {
      return day;
    }
    if (type == Types.TIME) {
      return time;
    }
    LocalDateTime both = day.atTime(time);
    return type == Types.TIMESTAMP ? both : both.toInstant(ZoneOffset.UTC);
  }

  @Test
  void itReadsWhatItWrites() {
    out.begin(1, Held.Form.BYTES);
    for (int i = 0; i < 20_000; i++) {
      Type type = TYPES.get(i % 4);
      Object value = value(type);
      out.begin(1, Held.Form.BYTES);
      long number = Values.toLong(value, type);
      if (!TextTimes.write(type, number, out, 0)) {
        assertThat(value.toString()).startsWith("+"); // a year of five digits
        continue;
      }
      String text = new String(out.data, out.starts[0], out.lengths[0], StandardCharsets.UTF_8);
      assertThat(ValueText.parse(text, type)).as(text).isEqualTo(value);
      assertThat(same(text, type)).as(text).isTrue();
    }
  }

  @Test
  void itReadsNothingThatTheSlowerWayDoesNot() {
    int read = 0;
    for (int i = 0; i < 200_000; i++) {
      Type type = TYPES.get(i % 4);
      StringBuilder text = new StringBuilder(value(type).toString());
      if (type == Types.INSTANT && random.nextBoolean()) {
        text.setLength(text.length() - 1);
        text.append(random.nextBoolean() ? '+' : '-')
            .append("%02d:%02d".formatted(random.nextInt(20), random.nextInt(62)));
      }
      for (int change = random.nextInt(3); change > 0; change--) {
        int at = random.nextInt(text.length());
        char sign = SIGNS.charAt(random.nextInt(SIGNS.length()));
        switch (random.nextInt(3)) {
          case 0 -> text.setCharAt(at, sign);
          case 1 -> text.insert(at, sign);
          default -> text.deleteCharAt(at);
        }
        text.append(text.isEmpty() ? "x" : "");
      }
      read += same(text.toString(), type) ? 1 : 0;
    }
    assertThat(read).isGreaterThan(30_000);
  }

  /** Whether it reads a text, which then must be what the slower way reads. */
  private boolean same(String text, Type type) {
    byte[] bytes = ("??" + text + "9").getBytes(StandardCharsets.UTF_8);
    out.begin(1, Held.Form.LONGS);
    if (!times.read(type, bytes, 2, bytes.length - 1, out, 0)) {
      return false;
    }
    Object slow;
    try {
      slow = ValueText.parse(text, type);
    } catch (InvalidInputException | DateTimeException e) {
      slow = e.getMessage();
    }
    Object fast = Values.fromLong(out.longs[0], type);
    assertThat(fast).as("%s as %s", text, type).isEqualTo(slow);
    return true;
  }

  @Test
  void formsOfEveryDay() {
    for (String text :
        List.of(
            "2026-03-01T12:00:00Z", "2026-03-01 12:00:00.5+01:00", "1969-12-31 23:59:59-00:00")) {
      assertThat(same(text, Types.INSTANT)).as(text).isTrue();
    }
    assertThat(same("2024-02-29", Types.DATE)).isTrue();
    assertThat(same("2023-02-29", Types.DATE)).isFalse();
    assertThat(same("1900-02-29", Types.DATE)).isFalse();
    assertThat(same("0000-01-01", Types.DATE)).isFalse();
    assertThat(Values.toLong(Instant.EPOCH, Types.INSTANT)).isZero();
  }
}
