package org.ysteron.internal.text;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.regex.Pattern;
import org.ysteron.error.InvalidInputException;

/**
 * Exact decimal numbers that are looked at before anything is computed with them: a few characters
 * such as {@code 1e999999999} would else take all memory. Numbers have at most {@value
 * #MOST_DIGITS} digits and are between 1e-1000 and 1e1000, or zero.
 */
public final class Decimals {
  public static final int MOST_DIGITS = 1000;

  private static final int MOST_BITS = 3400;
  private static final int MOST_SHOWN = 60;

  /** As RFC 8259 writes numbers: digits of ASCII, no plus sign, no zeros that do not count. */
  private static final Pattern NUMBER =
      Pattern.compile("-?(0|[1-9][0-9]*+)(\\.[0-9]++)?([eE][+-]?[0-9]++)?");

  private static final Pattern WHOLE = Pattern.compile("-?(0|[1-9][0-9]*+)");

  private Decimals() {}

  /**
   * Parses a number as JSON (RFC 8259) writes it.
   *
   * @throws NumberFormatException when it is none
   * @throws InvalidInputException when it is beyond the bounds
   */
  public static BigDecimal parse(String text) {
    if (text.length() > 2 * MOST_DIGITS) {
      throw beyond(text.substring(0, MOST_SHOWN) + "…");
    }
    if (!NUMBER.matcher(text).matches()) {
      throw new NumberFormatException("no number");
    }
    try {
      return bounded(new BigDecimal(text));
    } catch (NumberFormatException e) {
      throw beyond(text); // its exponent is too large for any computation
    }
  }

  /**
   * Returns the text of a whole number as JSON writes it.
   *
   * @throws NumberFormatException when it is none
   */
  public static String whole(String text) {
    if (text.length() > MOST_DIGITS || !WHOLE.matcher(text).matches()) {
      throw new NumberFormatException("no whole number");
    }
    return text;
  }

  /**
   * Returns a number that is not too large, too small, or too long to compute with.
   *
   * @throws InvalidInputException when it is
   */
  public static BigDecimal bounded(BigDecimal number) {
    if (number.signum() == 0) {
      return Math.abs((long) number.scale()) > MOST_DIGITS ? BigDecimal.ZERO : number;
    }
    if (!isBounded(number)) {
      throw beyond(show(number));
    }
    return number;
  }

  private static boolean isBounded(BigDecimal number) {
    if (number.unscaledValue().bitLength() > MOST_BITS) {
      return false;
    }
    long digits = number.precision();
    long exponent = digits - 1 - number.scale();
    return digits <= MOST_DIGITS
        && Math.abs(exponent) <= MOST_DIGITS
        && Math.abs((long) number.scale()) <= 2 * MOST_DIGITS;
  }

  /**
   * The exact value of a number of any class.
   *
   * @throws NumberFormatException when it is not finite
   * @throws InvalidInputException when it is beyond the bounds
   */
  public static BigDecimal of(Number number) {
    if (number instanceof BigDecimal decimal) {
      return bounded(decimal);
    }
    if (number instanceof BigInteger whole) {
      return bounded(new BigDecimal(whole));
    }
    if (number instanceof Long || number instanceof Integer) {
      return BigDecimal.valueOf(number.longValue());
    }
    return bounded(new BigDecimal(number.toString()));
  }

  private static InvalidInputException beyond(String number) {
    return new InvalidInputException(
        "%s is not a supported number: numbers have up to %d digits and are between 1e-%d and 1e%d"
            .formatted(number, MOST_DIGITS, MOST_DIGITS, MOST_DIGITS));
  }

  /** A number for messages: without an exponent when that is short. */
  public static String show(BigDecimal number) {
    if (number.unscaledValue().bitLength() > MOST_BITS) {
      return "a number of about %d digits".formatted(number.unscaledValue().bitLength() * 3L / 10);
    }
    return Math.abs((long) number.scale()) > MOST_SHOWN
        ? number.toString()
        : number.toPlainString();
  }
}
