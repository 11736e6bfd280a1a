package org.ysteron.internal.text;

import org.ysteron.error.YsteronException;

/** What another library's exception says, for a message of ours. */
public final class Reason {
  private static final int LONGEST = 200;

  private Reason() {}

  /** A message of ours as it is, else its kind and its first line, not too long. */
  public static String of(Throwable cause) {
    if (cause instanceof YsteronException) {
      return cause.getMessage();
    }
    String text =
        cause.getClass().getSimpleName()
            + (cause.getMessage() == null ? "" : ": " + cause.getMessage());
    String line = text.lines().findFirst().orElse("");
    return line.length() > LONGEST ? line.substring(0, LONGEST) + "…" : line;
  }
}
