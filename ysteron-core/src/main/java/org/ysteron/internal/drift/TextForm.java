package org.ysteron.internal.drift;

import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.error.InvalidInputException;

/** The forms of ISO 8601 and RFC 3339 that a text can have. */
enum TextForm {
  DATE,
  TIME,
  TIMESTAMP,
  INSTANT;

  private static final int DATE_LENGTH = "2026-03-01".length();
  private static final int LONGEST = "2026-03-01T12:00:00.000000000+00:00:00".length();

  /** The form of a text that is a value of its type, and as exact as the type is. */
  static Optional<TextForm> of(String text) {
    TextForm form = shape(text);
    if (form == null) {
      return Optional.empty();
    }
    try {
      ValueText.parse(text, form.type());
      return Optional.of(form);
    } catch (InvalidInputException e) {
      return Optional.empty();
    }
  }

  private Type type() {
    return switch (this) {
      case DATE -> Types.DATE;
      case TIME -> Types.TIME;
      case TIMESTAMP -> Types.TIMESTAMP;
      case INSTANT -> Types.INSTANT;
    };
  }

  /** What a text looks like, or null. */
  private static TextForm shape(String text) {
    int length = text.length();
    if (length < 5 || length > LONGEST || !isDigit(text, 0) || !isDigit(text, 1)) {
      return null;
    }
    if (text.charAt(2) == ':') {
      return isDigit(text, length - 1) ? TIME : null;
    }
    if (length < DATE_LENGTH || text.charAt(4) != '-' || text.charAt(7) != '-') {
      return null;
    }
    if (length == DATE_LENGTH) {
      return DATE;
    }
    boolean zoned =
        !isDigit(text, length - 1)
            || text.indexOf('+', DATE_LENGTH) >= 0
            || text.indexOf('-', DATE_LENGTH) >= 0;
    return zoned ? INSTANT : TIMESTAMP;
  }

  private static boolean isDigit(String text, int at) {
    return text.charAt(at) >= '0' && text.charAt(at) <= '9';
  }
}
