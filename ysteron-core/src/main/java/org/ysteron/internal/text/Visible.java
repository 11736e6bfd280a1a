package org.ysteron.internal.text;

import java.util.function.IntPredicate;

/**
 * Text for people's eyes: characters that would move the cursor, colour the terminal or turn the
 * direction of writing are written as {@code \}{@code uXXXX}. Those are the control characters, the
 * format characters but for the joiners that scripts and emoji need (U+200C and U+200D), the
 * separators of lines and paragraphs, and halves of characters.
 */
public final class Visible {
  private static final int NON_JOINER = 0x200c;
  private static final int JOINER = 0x200d;
  private static final int DELETE = 0x7f;

  private Visible() {}

  /** Whether a character is not for a terminal as it is. */
  public static boolean isHidden(int c) {
    if (c >= ' ' && c < DELETE) {
      return false;
    }
    return switch (Character.getType(c)) {
      case Character.CONTROL,
          Character.LINE_SEPARATOR,
          Character.PARAGRAPH_SEPARATOR,
          Character.SURROGATE ->
          true;
      case Character.FORMAT -> c != NON_JOINER && c != JOINER;
      default -> false;
    };
  }

  /** A text in which everything is visible, line feeds and tabs, too. */
  public static String of(String text) {
    return escaped(text, Visible::isHidden);
  }

  /** The same, but lines stay lines. */
  public static String lines(String text) {
    return escaped(text, c -> c != '\n' && isHidden(c));
  }

  private static String escaped(String text, IntPredicate hidden) {
    if (text.codePoints().noneMatch(hidden)) {
      return text;
    }
    StringBuilder visible = new StringBuilder();
    text.codePoints().forEach(c -> append(visible, c, hidden.test(c)));
    return visible.toString();
  }

  private static void append(StringBuilder visible, int c, boolean hidden) {
    if (!hidden) {
      visible.appendCodePoint(c);
    } else if (Character.isBmpCodePoint(c)) {
      visible.append("\\u%04x".formatted(c));
    } else {
      for (char half : Character.toChars(c)) {
        visible.append("\\u%04x".formatted((int) half));
      }
    }
  }
}
