package org.ysteron.sql.text;

import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;

/** SQL text that cannot be used; the message shows the place. */
public final class SqlTextException extends InvalidInputException {
  private static final long serialVersionUID = 1L;

  private static final int BEFORE = 100;
  private static final int BEHIND = 60;

  private final String reason;
  private final int line;
  private final int column;

  SqlTextException(String what, String text, int line, int column, @Nullable Throwable cause) {
    super(what + pointer(text, line, column), cause);
    this.reason = what;
    this.line = line;
    this.column = column;
  }

  /** What is wrong, without the place. */
  public String reason() {
    return reason;
  }

  /** The line of the text, from 1. */
  public int line() {
    return line;
  }

  /** The character of the line, from 1. */
  public int column() {
    return column;
  }

  private static String pointer(String text, int line, int column) {
    String[] lines = text.split("\n", -1);
    if (line < 1 || line > lines.length) {
      return "";
    }
    String whole = lines[line - 1];
    int at = Math.max(0, Math.min(column - 1, whole.length()));
    int from = Math.max(0, at - BEFORE);
    int to = Math.min(whole.length(), at + BEHIND);
    String head = from > 0 ? "…" : "";
    String shown = head + whole.substring(from, to) + (to < whole.length() ? "…" : "");
    return "\n  " + shown + "\n  " + " ".repeat(at - from + head.length()) + "^";
  }
}
