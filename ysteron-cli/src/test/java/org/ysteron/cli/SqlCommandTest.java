package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.InterruptedIOException;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.jline.terminal.Terminal;
import org.jline.terminal.impl.ExternalTerminal;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Lake;
import org.ysteron.cli.Tool.Answer;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.sql.SqlSession;

/** {@code ysteron sql}: statements of options, of files and of a terminal. */
class SqlCommandTest {
  @TempDir Path directory;
  private String lake;

  @BeforeEach
  void create() {
    lake = directory.resolve("lake").toString();
    Tool.run("create-lake", lake);
    assertThat(
            on(
                    "-e",
                    "CREATE TABLE tide.levels (id BIGINT PRIMARY KEY, note VARCHAR); INSERT INTO tide.levels VALUES (1, 'a;b'), (2, 'c')")
                .out())
        .isEqualToIgnoringNewLines("Table created.2 rows inserted.");
  }

  private Answer on(String... words) {
    String[] all = new String[words.length + 3];
    all[0] = "sql";
    System.arraycopy(words, 0, all, 1, words.length);
    all[words.length + 1] = "--lake";
    all[words.length + 2] = lake;
    return Tool.run(all);
  }

  @Test
  void statementsOfAFileRunUntilOneFails() throws IOException {
    Path file = directory.resolve("script.sql");
    Files.writeString(
        file,
        "-- a comment; with a semicolon\nSELECT note FROM levels ORDER BY id;\n\nDELETE FROM levels WHERE id = 2;\nSELECT nope FROM levels;\nDELETE FROM levels;");

    Answer answer = on("-f", file.toString(), "--schema", "tide", "--format", "csv", "--timing");

    assertThat(answer.code()).isEqualTo(1);
    assertThat(answer.out()).contains("note\na;b\nc\n", "2 rows, ");
    assertThat(answer.err()).contains("Column 'nope' not found", "^");
    assertThat(on("-e", "SELECT count(*) AS n FROM tide.levels", "--format", "csv").out())
        .isEqualToIgnoringNewLines("n1");
  }

  @Test
  void aTransactionThatDoesNotEndIsRolledBack() {
    Answer answer = on("-e", "START TRANSACTION; DELETE FROM tide.levels");

    assertThat(answer.err()).contains("rolled back");
    assertThat(on("-e", "tables").out()).contains("tide.levels").contains("2");
    assertThat(on("--read-only", "-e", "DELETE FROM tide.levels").err()).contains("read-only");
    assertThat(on("-e", "format xml").err()).contains("text, csv or json");
    assertThat(on("-f", "/no/file").err()).contains("cannot be read");
  }

  /** Types a line, and the others when the shell has asked for more. */
  private String typed(String line, String others) throws Exception {
    ByteArrayOutputStream shown = new ByteArrayOutputStream();
    try (Keyboard keyboard = new Keyboard(line, shown, others);
        Lake opened = Lake.open(Path.of(lake));
        Terminal terminal =
            new ExternalTerminal("keyboard", "xterm", keyboard, shown, StandardCharsets.UTF_8)) {
      ShellMonitor monitor = new ShellMonitor(ProgressMonitor.NONE);
      try (SqlSession session = new SqlSession(opened.watchedBy(monitor))) {
        SqlShell shell =
            new SqlShell(
                session, new PrintWriter(terminal.writer(), true), Listing.Options.ofText(), false);
        new ShellTerminal(shell, monitor, directory.resolve("history")).run(terminal);
      }
    }
    return shown.toString(StandardCharsets.UTF_8);
  }

  @Test
  void statementsAreTypedOverSeveralLines() throws Exception {
    String shown =
        typed(
            "SELECT id,\n",
            " note\nFROM tide.levels\nWHERE id = 1;\nschema tide\nSTART TRANSACTION; DELETE FROM levels;\nSELECT nope FROM levels;\nROLLBACK;\ncolumns levels\nhelp\nSELECT count(*) AS n FROM levels;\nquit\nDELETE FROM levels;\n");

    assertThat(shown)
        .contains("a;b", "2 rows deleted.", "error: The SQL text is wrong: Column 'nope'")
        .contains("Rolled back.", "VARCHAR", "timing on|off", "...>", "ysteron*>");
    assertThat(Files.readString(directory.resolve("history"))).contains("FROM tide.levels");
    assertThat(on("-e", "SELECT count(*) AS n FROM tide.levels", "--format", "csv").out())
        .isEqualToIgnoringNewLines("n2");
  }

  @Test
  void wordsAreCompleted() {
    try (Lake opened = Lake.open(Path.of(lake));
        SqlSession session = new SqlSession(opened)) {
      SqlShell shell =
          new SqlShell(
              session,
              new PrintWriter(new java.io.StringWriter()),
              Listing.Options.ofText(),
              false);
      List<String> words = new ShellCompleter(shell).words("SELECT no FROM tide.levels");
      assertThat(words)
          .contains("SELECT", "tide.levels", "note", "levels.id", "lake.compact", "timing");
    }
  }

  /**
   * Gives the second text when the shell has shown that it waits for more. Ends when it is closed,
   * or after a minute.
   */
  private static final class Keyboard extends InputStream {
    private final byte[] keys;
    private final int first;
    private final ByteArrayOutputStream shown;
    private int given;
    private final long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
    private volatile boolean closed;

    Keyboard(String line, ByteArrayOutputStream shown, String others) {
      this.keys = (line + others).getBytes(StandardCharsets.UTF_8);
      this.first = line.getBytes(StandardCharsets.UTF_8).length;
      this.shown = shown;
    }

    private boolean waits() {
      return given == keys.length
          || (given == first && !shown.toString(StandardCharsets.UTF_8).contains("...>"));
    }

    @Override
    public int read() throws IOException {
      while (!closed && System.nanoTime() < end && waits()) {
        try {
          Thread.sleep(5);
        } catch (InterruptedException e) {
          throw (IOException) new InterruptedIOException().initCause(e);
        }
      }
      return waits() ? -1 : keys[given++];
    }

    @Override
    public int read(byte[] into, int offset, int length) throws IOException {
      int key = length == 0 ? 0 : read();
      if (length == 0 || key < 0) {
        return key;
      }
      into[offset] = (byte) key;
      return 1;
    }

    @Override
    public void close() {
      closed = true;
    }
  }
}
