package org.ysteron.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.Writer;
import org.ysteron.data.Visible;
import picocli.CommandLine.Help.Ansi;

/**
 * What the tool prints for people: whatever is in a name, a value or a message, the terminal is
 * told nothing by it. Lines and tabs stay, and the tool's own colours where it uses some.
 */
final class Output extends PrintWriter {
  /** The script that starts the tool knows whether standard output is a terminal. */
  private static final boolean ON_TERMINAL = Boolean.getBoolean("ysteron.terminal");

  private final PrintWriter raw;

  Output(PrintWriter raw) {
    super(new Filter(raw), true);
    this.raw = raw;
  }

  /** For data as it is: the same, unless it is a terminal that gets it. */
  PrintWriter forData() {
    flush();
    return ON_TERMINAL ? this : raw;
  }

  @Override
  public boolean checkError() {
    return super.checkError() | raw.checkError();
  }

  /** Takes whole strings apart by characters; half a character waits for the other half. */
  private static final class Filter extends Writer {
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
      for (String line : text.split("(?<=[\n\t])|(?=[\n\t])")) {
        visible.append(line.equals("\n") || line.equals("\t") ? line : ofLine(line));
      }
      return visible.toString();
    }

    private static String ofLine(String line) {
      if (!Ansi.AUTO.enabled()) {
        return Visible.of(line);
      }
      StringBuilder visible = new StringBuilder();
      for (String part : line.split("(?=\u001b\\[[0-9;]{1,8}m)|(?<=\u001b\\[[0-9;]{1,8}m)")) {
        visible.append(part.matches("\u001b\\[[0-9;]{1,8}m") ? part : Visible.of(part));
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
