package org.ysteron.intake;

import java.math.BigDecimal;
import java.util.HashMap;
import java.util.Map;
import org.ysteron.data.Decimals;
import org.ysteron.error.InvalidInputException;

/**
 * Tells for the columns of a CSV file whether all that is in them is truth or numbers, so that a
 * column that the table does not know need not be taken for text. For one thread.
 */
final class TextTypes {
  /** What a column has held so far; each takes what is before it only by becoming text. */
  enum Kind {
    NOTHING,
    TRUTH,
    NUMBER,
    TEXT
  }

  private final Map<String, Kind> kinds = new HashMap<>();

  void look(String column, String text) {
    if (!text.isEmpty()) {
      kinds.merge(column, of(text), (had, now) -> had == now ? had : Kind.TEXT);
    }
  }

  private static Kind of(String text) {
    if (text.equals("true") || text.equals("false")) {
      return Kind.TRUTH;
    }
    boolean zeros = text.matches("-?0\\d.*"); // a number would lose them
    return text.matches("-?[0-9]+(\\.[0-9]+)?([eE][+-]?[0-9]+)?") && !zeros && isUsable(text)
        ? Kind.NUMBER
        : Kind.TEXT;
  }

  private static boolean isUsable(String number) {
    try {
      return Decimals.parse(number) != null;
    } catch (InvalidInputException e) {
      return false; // too large for a number of ours, so it stays as it is
    }
  }

  /** A value in the form that parsed JSON would have it. */
  Object value(String column, String text) {
    if (text == null || (text.isEmpty() && kinds.getOrDefault(column, Kind.TEXT) != Kind.TEXT)) {
      return null;
    }
    return switch (kinds.getOrDefault(column, Kind.TEXT)) {
      case TRUTH -> Boolean.valueOf(text);
      case NUMBER -> number(text);
      default -> text;
    };
  }

  private static Object number(String text) {
    BigDecimal number = Decimals.parse(text);
    if (number.scale() == 0 && number.precision() <= 9) {
      return number.intValueExact();
    }
    return number.scale() == 0 && number.precision() <= 18
        ? (Object) number.longValueExact()
        : number;
  }
}
