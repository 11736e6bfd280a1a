package org.ysteron.cli;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import org.jline.reader.EOFError;
import org.jline.reader.EndOfFileException;
import org.jline.reader.LineReader;
import org.jline.reader.LineReaderBuilder;
import org.jline.reader.ParsedLine;
import org.jline.reader.Parser;
import org.jline.reader.UserInterruptException;
import org.jline.reader.impl.DefaultParser;
import org.jline.terminal.Terminal;
import org.jline.terminal.TerminalBuilder;
import org.ysteron.error.CancelledException;
import org.ysteron.error.YsteronException;
import org.ysteron.sql.text.SqlText;

/** A terminal on which statements are typed. For one thread; signals come from others. */
final class ShellTerminal {
  private static final String PROMPT = "ysteron> ";
  private static final String WITHIN = "ysteron*> ";
  private static final String MORE = "    ...> ";

  private final SqlShell shell;
  private final ShellMonitor monitor;
  private final Path history;

  ShellTerminal(SqlShell shell, ShellMonitor monitor, Path history) {
    this.shell = shell;
    this.monitor = monitor;
    this.history = history;
  }

  /** Reads and runs until the end. */
  void run() {
    try (Terminal terminal = TerminalBuilder.builder().system(true).build()) {
      run(terminal);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  void run(Terminal terminal) {
    LineReader reader =
        LineReaderBuilder.builder()
            .terminal(terminal)
            .appName("ysteron")
            .parser(new Statements())
            .completer(new ShellCompleter(shell))
            .variable(LineReader.HISTORY_FILE, history)
            .variable(LineReader.SECONDARY_PROMPT_PATTERN, MORE)
            .variable(LineReader.INDENTATION, 0)
            .option(LineReader.Option.DISABLE_EVENT_EXPANSION, true)
            .build();
    Terminal.SignalHandler before =
        terminal.handle(Terminal.Signal.INT, signal -> monitor.cancel());
    try {
      while (step(reader, terminal)) {
        terminal.flush();
      }
    } finally {
      terminal.handle(Terminal.Signal.INT, before);
    }
  }

  /** Reads and runs a line; whether another one follows. */
  private boolean step(LineReader reader, Terminal terminal) {
    String text;
    try {
      text = reader.readLine(shell.inTransaction() ? WITHIN : PROMPT);
    } catch (UserInterruptException e) {
      return true; // what was typed is dropped
    } catch (EndOfFileException e) {
      return false;
    }
    monitor.begins();
    try {
      if (SqlShell.isWord(text)) {
        return shell.run(text);
      }
      for (String statement : SqlText.statements(text)) {
        shell.run(statement.strip());
      }
    } catch (CancelledException e) {
      terminal.writer().println("Cancelled; nothing of the statement was done.");
    } catch (YsteronException e) {
      terminal.writer().println("error: " + e.getMessage());
    }
    return true;
  }

  /** Lines belong together until a semicolon ends the last statement. */
  private static final class Statements implements Parser {
    private final DefaultParser words = new DefaultParser();

    Statements() {
      words.setQuoteChars(null);
      words.setEscapeChars(null);
    }

    @Override
    public ParsedLine parse(String line, int cursor, ParseContext context) {
      boolean isDone =
          context != ParseContext.ACCEPT_LINE
              || line.isBlank()
              || SqlShell.isWord(line)
              || SqlText.isComplete(line);
      if (!isDone) {
        throw new EOFError(-1, -1, "a semicolon is missing");
      }
      return words.parse(line, cursor, context);
    }
  }
}
