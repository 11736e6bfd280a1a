package org.ysteron.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.Writer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.ysteron.internal.text.Visible;
import picocli.CommandLine.Help.Ansi;

/**
 * What the tool prints for people: whatever is in a name, a value or a message, the terminal is
 * told nothing by it. Lines and tabs stay, and the tool's own colours where it uses some.
 */
final class Output extends PrintWriter {
  /** The script that starts the tool knows whether standard output is a terminal. */
  static final boolean ON_TERMINAL = Boolean.getBoolean("ysteron.terminal");

  /** The same of standard input. */
  static final boolean IS_TYPED = Boolean.getBoolean("ysteron.typed");

  /** The same of standard error. */
  static final boolean IS_WATCHED = Boolean.getBoolean("ysteron.watched");

  /** Columns of the terminal; 0 when there is none, or it does not tell. */
  private static final int COLUMNS = Integer.getInteger("ysteron.columns", 0);

  private static final int NARROWEST = 40;

  /** The width of help pages. */
  static final int HELP_WIDTH = COLUMNS < 60 ? 100 : Math.min(COLUMNS, 120);

  /** The tool's own colours. */
  private static final String COLOUR = "\u001b\\[[0-9;]{1,8}m";

  private static final Pattern COLOURS = Pattern.compile(COLOUR);

  private final PrintWriter raw;
  private final int width;

  /** Breaks lines of prose at a width. */
  Output(PrintWriter raw, int width) {
    super(new Filter(raw), true);
    this.raw = raw;
    this.width = width;
  }

  /** Where lines end on a terminal; the largest number when they do not, or it is none. */
  static int widthOf(boolean isTerminal) {
    return isTerminal && COLUMNS >= NARROWEST ? COLUMNS : Integer.MAX_VALUE;
  }

  /** Where lines end; the largest number when they do not. */
  int width() {
    return width;
  }

  @Override
  public void println(String text) {
    super.println(wrapped(String.valueOf(text), width));
  }

  /**
   * Breaks lines that are too long between words, indented as they begin. What stands in columns,
   * with spaces next to each other, stays as it is.
   */
  static String wrapped(String text, int width) {
    if (text.length() <= width) {
      return text;
    }
    return text.lines()
        .map(
            line ->
                length(line) <= width || line.strip().contains("  ") ? line : broken(line, width))
        .collect(Collectors.joining("\n"));
  }

  private static int length(String line) {
    String plain = COLOURS.matcher(line).replaceAll("");
    return plain.codePointCount(0, plain.length());
  }

  private static String broken(String line, int width) {
    String indent = line.substring(0, line.length() - line.stripLeading().length());
    StringBuilder text = new StringBuilder();
    StringBuilder now = new StringBuilder(indent);
    for (String word : line.strip().split(" ", -1)) {
      boolean isFirst = now.length() == indent.length();
      if (!isFirst && length(now + " " + word) > width) {
        text.append(now).append('\n');
        now = new StringBuilder(indent);
        isFirst = true;
      }
      now.append(isFirst ? "" : " ").append(word);
    }
    return text.append(now).toString();
  }

  /** For data as it is: the same, unless it is a terminal that gets it. */
  PrintWriter forData() {
    flush();
    return ON_TERMINAL ? this : raw;
  }

  @Override
  public boolean checkError() {
    boolean here = super.checkError(); // which flushes, so that it is asked first
    return raw.checkError() || here;
  }

  /** Takes whole strings apart by characters; half a character waits for the other half. */
  private static final class Filter extends Writer {
    /** A colour of the tool's own, a line's end or a tab, or what is between those. */
    private static final Pattern TOKEN =
        Pattern.compile("(" + COLOUR + ")|[\\n\\t]|[^\u001b\\n\\t]++|\u001b");

    private final PrintWriter target;
    private String waiting = "";

    Filter(PrintWriter target) {
      this.target = target;
    }

    @Override
    public void write(char[] characters, int start, int length) {
      String text = waiting + new String(characters, start, length);
      boolean half = !text.isEmpty() && Character.isHighSurrogate(text.charAt(text.length() - 1));
      waiting = half ? text.substring(text.length() - 1) : "";
      target.write(visible(half ? text.substring(0, text.length() - 1) : text));
    }

    private static String visible(String text) {
      if (text.chars().noneMatch(c -> c != '\n' && c != '\t' && Visible.isHidden(c))) {
        return text;
      }
      StringBuilder visible = new StringBuilder();
      Matcher token = TOKEN.matcher(text);
      while (token.find()) {
        String part = token.group();
        boolean colour = token.group(1) != null && Ansi.AUTO.enabled();
        boolean layout = part.equals("\n") || part.equals("\t");
        visible.append(colour || layout ? part : Visible.of(part));
      }
      return visible.toString();
    }

    @Override
    public void flush() {
      target.flush();
    }

    @Override
    public void close() throws IOException {
      target.close();
    }
  }
}
