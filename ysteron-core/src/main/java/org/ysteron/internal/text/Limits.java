package org.ysteron.internal.text;

import java.nio.charset.StandardCharsets;
import org.ysteron.error.InvalidInputException;

/**
 * How large free text and how deep nesting may be, so that what is written can be read again. The
 * same limits stand in {@code docs/format.md}. Text is counted in bytes of UTF-8.
 */
public final class Limits {
  /** An author, a program. */
  public static final int WHO = 1 << 10;

  /** A note. */
  public static final int NOTE = 1 << 16;

  /** A statement. */
  public static final int STATEMENT = 1 << 20;

  /** Labels of a commit. */
  public static final int LABELS = 64;

  /** The name of a label. */
  public static final int LABEL_NAME = 128;

  /** The value of a label. */
  public static final int LABEL_VALUE = 1 << 12;

  /** A comment. */
  public static final int COMMENT = 1 << 16;

  /** The name of a column, a check, a named writer. */
  public static final int NAME = 1 << 10;

  /** How deep types and conditions nest. */
  public static final int DEPTH = 32;

  /** How deep expressions nest. */
  public static final int EXPRESSION_DEPTH = 64;

  /** How many parts expressions have. */
  public static final int EXPRESSION_SIZE = 1_000_000;

  private Limits() {}

  /** Refuses an expression that has too many parts. */
  public static void size(int parts) {
    if (parts > EXPRESSION_SIZE) {
      throw new InvalidInputException(
          "The expression has more than %d parts. Make it simpler; a part that stands in it twice counts twice."
              .formatted(EXPRESSION_SIZE));
    }
  }

  /** Refuses an expression that is too deep. */
  public static void expression(int depth) {
    if (depth > EXPRESSION_DEPTH) {
      throw new InvalidInputException(
          "The expression is nested more than %d levels deep. Make it simpler."
              .formatted(EXPRESSION_DEPTH));
    }
  }

  /** Refuses a number that must not be negative. */
  public static void notNegative(long value, String what) {
    if (value < 0) {
      throw new InvalidInputException(
          "The %s is %d; it must not be negative.".formatted(what, value));
    }
  }

  /** Returns a text that is not too long and has no half of a character. */
  public static String text(String text, int most, String what) {
    if (text.length() > most) {
      throw tooLong(text.length() + " characters", most, what);
    }
    int half = halfCharacter(text);
    if (half >= 0) {
      throw new InvalidInputException(
          "The %s contains half of a surrogate pair (U+%04X) at position %d. Nothing was changed; remove that character."
              .formatted(what, (int) text.charAt(half), half));
    }
    int bytes = text.getBytes(StandardCharsets.UTF_8).length;
    if (bytes > most) {
      throw tooLong(bytes + " bytes", most, what);
    }
    return text;
  }

  /** Where a text has one half of a character without the other, which no UTF-8 can hold; or -1. */
  public static int halfCharacter(String text) {
    for (int i = 0; i < text.length(); i++) {
      if (Character.isSurrogate(text.charAt(i))) {
        boolean whole =
            Character.isHighSurrogate(text.charAt(i))
                && i + 1 < text.length()
                && Character.isLowSurrogate(text.charAt(i + 1));
        if (!whole) {
          return i;
        }
        i++;
      }
    }
    return -1;
  }

  private static InvalidInputException tooLong(String size, int most, String what) {
    return new InvalidInputException(
        "The %s has %s; the limit is %d bytes. Nothing was changed; make it shorter."
            .formatted(what, size, most));
  }

  /** Returns a depth that is not too deep. */
  public static int depth(int depth, String what) {
    if (depth > DEPTH) {
      throw new InvalidInputException(
          "The %s is nested more than %d levels deep. Nothing was changed; make it simpler."
              .formatted(what, DEPTH));
    }
    return depth;
  }
}
