package org.ysteron.internal.drift;

import java.math.BigDecimal;
import java.util.Optional;
import org.ysteron.data.TextRow;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/**
 * A value of a file in which everything is text, such as CSV, so that its type is told by what is
 * in it.
 *
 * @param text as it stands there; empty for an empty value, which is not null
 */
public record FieldText(String text) {
  private static final int MOST_OF_LONG = 18;

  /** The value of a column of a row of text; null for none. */
  static FieldText of(TextRow row, int column) {
    String text = row.values()[column];
    return text == null ? null : new FieldText(text);
  }

  /** What it is as parsed JSON: a boolean, a number, or text. */
  Object json() {
    return switch (text) {
      case "true" -> true;
      case "false" -> false;
      default -> number(text).orElse(text);
    };
  }

  /** The number that a text is, as parsed JSON would have it; empty when it is none of ours. */
  static Optional<Object> number(String text) {
    try {
      BigDecimal number = Decimals.parse(text);
      boolean negativeZero = number.signum() == 0 && text.charAt(0) == '-';
      if (negativeZero) {
        return Optional.of(-0.0);
      }
      boolean whole = text.chars().allMatch(c -> c == '-' || (c >= '0' && c <= '9'));
      if (!whole) {
        return Optional.of(number);
      }
      return Optional.of(
          number.precision() <= MOST_OF_LONG
              ? (Object) number.longValueExact()
              : number.toBigIntegerExact());
    } catch (NumberFormatException | InvalidInputException e) {
      return Optional.empty();
    }
  }
}
