package org.ysteron.data;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.HexFormat;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/**
 * Values as text, strictly: ISO 8601 dates and times (RFC 3339 for instants; a space may stand for
 * the T), numbers as in JSON (digits of ASCII, no plus sign, no leading zeros), {@code true} and
 * {@code false}, hexadecimal digits for binary.
 */
public final class ValueText {
  private static final Map<String, Double> SPECIAL =
      Map.of(
          "NaN", Double.NaN,
          "Infinity", Double.POSITIVE_INFINITY,
          "+Infinity", Double.POSITIVE_INFINITY,
          "-Infinity", Double.NEGATIVE_INFINITY);

  private ValueText() {}

  /**
   * Parses the text of a value that is not nested.
   *
   * @throws InvalidInputException when the text is not of that type
   */
  public static Object parse(String text, Type type) {
    try {
      if (type instanceof Type.Decimal) {
        return Values.accept(Decimals.parse(text), type);
      }
      if (type instanceof Type.Text) {
        return Values.accept(text, type);
      }
      if (type instanceof Type.Simple simple) {
        return Values.accept(parseSimple(text, simple), simple);
      }
    } catch (NumberFormatException | DateTimeException e) {
      throw wrong(text, type, e);
    }
    return Json.parseValue(text, type);
  }

  private static Object parseSimple(String text, Type.Simple type) {
    return switch (type) {
      case BOOLEAN ->
          switch (text.toLowerCase(Locale.ROOT)) {
            case "true" -> true;
            case "false" -> false;
            default -> throw wrong(text, type, null);
          };
      case INTEGER -> Integer.valueOf(Decimals.whole(text));
      case BIGINT -> Long.valueOf(Decimals.whole(text));
      case REAL -> (float) real(text, type);
      case DOUBLE -> real(text, type);
      case DATE -> LocalDate.parse(text);
      case TIME -> LocalTime.parse(text);
      case TIMESTAMP -> LocalDateTime.parse(text.replace(' ', 'T'));
      case INSTANT -> instant(text);
      case BINARY -> binary(text, type);
      case UUID -> uuid(text, type);
      case JSON -> text;
    };
  }

  /** An RFC 3339 instant. */
  public static Instant instant(String text) {
    return OffsetDateTime.parse(text.replace(' ', 'T')).toInstant();
  }

  /** Whether a text is not one of those for infinities and for what is no number. */
  public static boolean isNumber(String text) {
    return !SPECIAL.containsKey(text);
  }

  private static double real(String text, Type type) {
    Double special = SPECIAL.get(text);
    if (special != null) {
      return special;
    }
    BigDecimal exact = Decimals.parse(text); // stricter than what Java takes for a double
    double value = exact.signum() == 0 ? Double.parseDouble(text) : exact.doubleValue();
    if (Double.isInfinite(value) || (type == Types.REAL && Float.isInfinite((float) value))) {
      throw wrong(text, type, null);
    }
    return value;
  }

  private static byte[] binary(String text, Type type) {
    try {
      return HexFormat.of().parseHex(text);
    } catch (IllegalArgumentException e) {
      throw wrong(text, type, e);
    }
  }

  private static UUID uuid(String text, Type type) {
    try {
      UUID uuid = UUID.fromString(text);
      if (uuid.toString().equalsIgnoreCase(text)) {
        return uuid;
      }
      throw wrong(text, type, null);
    } catch (IllegalArgumentException e) {
      throw wrong(text, type, e);
    }
  }

  private static InvalidInputException wrong(String text, Type type, @Nullable Throwable cause) {
    return new InvalidInputException(Values.quote(text) + " is not a value of " + type, cause);
  }
}
