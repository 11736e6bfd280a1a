package org.ysteron.internal.compute;

import org.ysteron.data.Type;
import org.ysteron.data.Types;

/**
 * Dates and times in their plain form, {@code 2026-03-01 12:00:00.5+01:00} (RFC 3339, with a space
 * or a T), digit by digit. Every other form is left to who is slower and knows them all. For one
 * thread.
 */
final class TextTimes {
  private static final int DATE_LENGTH = 10;
  private static final int MOST_YEARS = 10_000;
  private static final int MOST_DIGITS = 6;
  private static final int MOST_OFFSET = 18 * 60;
  private static final byte[] UTC = {'+', '0', '0', ':', '0', '0'};

  private byte[] data;
  private int at;
  private int end;
  private boolean isPlain;

  /** Reads a value; false when the text is not in the plain form. */
  boolean read(Type type, byte[] text, int start, int stop, Held out, int row) {
    data = text;
    at = start;
    end = stop;
    isPlain = true;
    long value = type == Types.TIME ? 0 : day();
    if (type != Types.DATE) {
      if (type != Types.TIME) {
        isPlain &= at < end && (data[at] == ' ' || data[at] == 'T');
        at++;
      }
      value = value * TimeKernels.DAY + time();
      value -= type == Types.INSTANT ? offset() : 0;
    }
    if (!isPlain || at != end) {
      return false;
    }
    out.longs[row] = value;
    return true;
  }

  private int digits(int count) {
    int value = 0;
    for (int i = 0; i < count; i++) {
      int digit = at < end ? data[at++] - '0' : -1;
      isPlain &= digit >= 0 && digit <= 9;
      value = value * 10 + digit;
    }
    return value;
  }

  private void skip(char one) {
    isPlain &= at < end && data[at] == one;
    at++;
  }

  private long day() {
    int year = digits(4);
    skip('-');
    int month = digits(2);
    skip('-');
    int day = digits(2);
    isPlain &= year > 0 && month >= 1 && month <= 12 && day >= 1;
    long first = TimeKernels.firstDay(year * 12L + month - 1);
    isPlain &= first + day <= TimeKernels.firstDay(year * 12L + month);
    return first + day - 1;
  }

  private long time() {
    int hour = digits(2);
    skip(':');
    int minute = digits(2);
    skip(':');
    int second = digits(2);
    isPlain &= hour < 24 && minute < 60 && second < 60;
    long micros = 0;
    if (at < end && data[at] == '.') {
      int first = ++at;
      while (at < end && data[at] >= '0' && data[at] <= '9' && at < first + MOST_DIGITS) {
        micros = micros * 10 + data[at++] - '0';
      }
      isPlain &= at > first;
      for (int i = at - first; i < MOST_DIGITS; i++) {
        micros *= 10;
      }
    }
    return ((hour * 60L + minute) * 60 + second) * 1_000_000 + micros;
  }

  private long offset() {
    if (at < end && data[at] == 'Z') {
      at++;
      return 0;
    }
    boolean west = at < end && data[at] == '-';
    isPlain &= west || (at < end && data[at] == '+');
    at++;
    int hours = digits(2);
    skip(':');
    int minutes = digits(2);
    int offset = hours * 60 + minutes;
    isPlain &= minutes < 60 && offset <= MOST_OFFSET;
    return (west ? -offset : offset) * 60_000_000L;
  }

  /** Writes a value; false when its year has not four digits. */
  static boolean write(Type type, long value, Held out, int row) {
    long day = type == Types.DATE ? value : Math.floorDiv(value, TimeKernels.DAY);
    long month = TimeKernels.month(day);
    boolean hasDate = type != Types.TIME;
    if (hasDate && (month < 0 || month >= MOST_YEARS * 12L)) {
      return false;
    }
    int start = out.room(DATE_LENGTH + 1 + "00:00:00.000000".length() + UTC.length);
    byte[] to = out.data;
    int next = start;
    if (hasDate) {
      next = put(to, next, month / 12, 4);
      to[next++] = '-';
      next = put(to, next, month % 12 + 1, 2);
      to[next++] = '-';
      next = put(to, next, day - TimeKernels.firstDay(month) + 1, 2);
    }
    if (type != Types.DATE) {
      if (hasDate) {
        to[next++] = ' ';
      }
      next = time(to, next, value - (hasDate ? day * TimeKernels.DAY : 0));
    }
    if (type == Types.INSTANT) {
      System.arraycopy(UTC, 0, to, next, UTC.length);
      next += UTC.length;
    }
    out.end(row, next - start);
    return true;
  }

  private static int time(byte[] to, int from, long micros) {
    long seconds = micros / 1_000_000;
    int next = put(to, from, seconds / 3600, 2);
    to[next++] = ':';
    next = put(to, next, seconds / 60 % 60, 2);
    to[next++] = ':';
    next = put(to, next, seconds % 60, 2);
    long rest = micros % 1_000_000;
    if (rest > 0) {
      int digits = MOST_DIGITS;
      while (rest % 10 == 0) {
        rest /= 10;
        digits--;
      }
      to[next++] = '.';
      next = put(to, next, rest, digits);
    }
    return next;
  }

  private static int put(byte[] to, int at, long value, int digits) {
    long left = value;
    for (int i = at + digits - 1; i >= at; i--) {
      to[i] = (byte) ('0' + left % 10);
      left /= 10;
    }
    return at + digits;
  }
}
