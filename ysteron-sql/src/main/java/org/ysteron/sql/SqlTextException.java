package org.ysteron.sql;

import org.ysteron.error.YsteronException;

/** SQL text that cannot be used; the message shows the place. */
public final class SqlTextException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final String reason;
  private final int line;
  private final int column;

  SqlTextException(String what, String text, int line, int column, Throwable cause) {
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
    return "\n  " + lines[line - 1] + "\n  " + " ".repeat(Math.max(0, column - 1)) + "^";
  }
}
