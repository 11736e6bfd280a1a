package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoField;
import java.util.Locale;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.text.Characters;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.typing.Numbers;

/** CAST to text and from it. */
final class TextCasts {
  private static final int MOST_DIGITS = 40;
  private static final DateTimeFormatter TIME =
      new DateTimeFormatterBuilder()
          .appendPattern("HH:mm:ss")
          .appendFraction(ChronoField.MICRO_OF_SECOND, 0, 6, true)
          .toFormatter(Locale.ROOT);

  private TextCasts() {}

  /** Text of at most so many characters; what is longer is cut off, as ISO says. */
  static final class Cut extends Kernel {
    private final Kernel of;
    private final int most;

    Cut(Kernel of, Type to) {
      super(to);
      this.of = of;
      this.most = to instanceof Type.Text text ? text.limit().orElse(-1) : -1;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      if (most < 0) {
        return from;
      }
      out.begin(rows, Held.Form.BYTES, from);
      out.share(from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          int start = from.starts[i];
          out.starts[i] = start;
          int end = start + from.lengths[i];
          out.lengths[i] = Characters.skip(from.data, start, end, most) - start;
        }
      }
      return out;
    }
  }

  /** The text of a value. */
  static final class ToText extends Kernel {
    private final Kernel of;
    private final Wide number = new Wide();
    private final Wide ten = new Wide();
    private final Wide digit = new Wide();
    private final byte[] digits = new byte[MOST_DIGITS];

    ToText(Kernel of) {
      super(Types.text());
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.BYTES, from);
      boolean exact = Numbers.isExact(of.type);
      boolean isTime = of.type.isTime();
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          if (exact) {
            write(from, i, Numbers.scale(of.type));
          } else if (!isTime || !TextTimes.write(of.type, from.longs[i], out, i)) {
            byte[] text =
                text(from.value(i, of.type).orElseThrow()).getBytes(StandardCharsets.UTF_8);
            out.copy(i, text, 0, text.length);
          }
        }
      }
      return out;
    }

    private static String text(Object value) {
      if (value instanceof LocalTime time) {
        return TIME.format(time);
      }
      if (value instanceof LocalDateTime time) {
        return time.toLocalDate() + " " + TIME.format(time);
      }
      if (value instanceof Instant instant) {
        return text(LocalDateTime.ofInstant(instant, ZoneOffset.UTC)) + "+00:00";
      }
      return value.toString();
    }

    private void write(Held from, int row, int scale) {
      from.to(number, row);
      boolean negative = number.isNegative();
      if (negative) {
        number.negate();
      }
      int at = digits.length;
      int left = scale + 1;
      int point = scale;
      byte[] to = digits;
      int total = 0;
      while (!number.isZero() || left > 0) {
        if (number.isShort() && number.low >= 0) {
          to[--at] = (byte) ('0' + number.low % 10);
          number.low /= 10;
        } else {
          number.divide(ten.setTen(1), digit);
          to[--at] = (byte) ('0' + digit.low);
        }
        left--;
        total++;
      }
      int length = total + (negative ? 1 : 0) + (scale > 0 ? 1 : 0);
      int place = out.room(length);
      int next = place;
      if (negative) {
        out.data[next++] = '-';
      }
      for (int d = total; d > 0; d--) {
        if (d == point && scale > 0) {
          out.data[next++] = '.';
        }
        out.data[next++] = to[at++];
      }
      out.end(row, length);
    }
  }

  /** What a text says. */
  static final class FromText extends Kernel {
    private final Kernel of;
    private final TextTimes times = new TextTimes();
    private final Wide number = new Wide();

    FromText(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.form(type), from);
      boolean exact = Numbers.isExact(type);
      boolean isTime = type.isTime();
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          int start = from.starts[i];
          int end = start + from.lengths[i];
          while (start < end && from.data[start] == ' ') {
            start++;
          }
          while (start < end && from.data[end - 1] == ' ') {
            end--;
          }
          boolean isDone =
              exact
                  ? whole(from.data, start, end)
                  : isTime && times.read(type, from.data, start, end, out, i);
          if (!isDone) {
            parse(new String(from.data, start, end - start, StandardCharsets.UTF_8), i);
          }
          if (exact) {
            out.set(i, number);
          }
        }
      }
      return out;
    }

    /** Takes a whole number of few digits; false when the text is something else. */
    private boolean whole(byte[] data, int start, int end) {
      boolean negative = start < end && data[start] == '-';
      int at = negative ? start + 1 : start;
      int count = end - at;
      if (count < 1 || count > 9 || (count > 1 && data[at] == '0')) {
        return false;
      }
      long value = 0;
      for (; at < end; at++) {
        int d = data[at] - '0';
        if (d < 0 || d > 9) {
          return false;
        }
        value = value * 10 + d;
      }
      if (Numbers.scale(type) > 0 || count > Numbers.precision(type)) {
        return false;
      }
      value = negative ? -value : value;
      number.set(value >> 63, value);
      return true;
    }

    private void parse(String text, int row) {
      try {
        if (Numbers.isExact(type)) {
          BigDecimal given = Decimals.parse(text);
          BigDecimal rounded =
              given.setScale(
                  Numbers.scale(type),
                  Numbers.isWhole(type) ? RoundingMode.UNNECESSARY : RoundingMode.HALF_UP);
          Object value = Values.accept(rounded, type);
          number.set(new BigDecimal(value.toString()).unscaledValue());
          return;
        }
        Object value = ValueText.parse(text, type);
        switch (Held.form(type)) {
          case LONGS -> out.longs[row] = Values.toLong(value, type);
          case DOUBLES -> out.doubles[row] = ((Number) value).doubleValue();
          default -> {
            byte[] bytes = Values.toBytes(value, type);
            out.copy(row, bytes, 0, bytes.length);
          }
        }
      } catch (ArithmeticException
          | NumberFormatException
          | DateTimeException
          | InvalidInputException e) {
        String hint = type == Types.INSTANT ? " with a time zone" : "";
        throw failure(row, Values.quote(text) + " is not a value of " + type + hint);
      }
    }
  }
}
