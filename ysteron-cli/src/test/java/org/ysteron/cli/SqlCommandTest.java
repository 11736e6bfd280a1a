package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PipedInputStream;
import java.io.PipedOutputStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.jline.terminal.Terminal;
import org.jline.terminal.TerminalBuilder;
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

  private String typed(String keys) throws Exception {
    ByteArrayOutputStream shown = new ByteArrayOutputStream();
    PipedOutputStream keyboard = new PipedOutputStream(); // is open until the shell ends
    PipedInputStream input = new PipedInputStream(keyboard, 1 << 16);
    keyboard.write(keys.getBytes(StandardCharsets.UTF_8));
    try (Lake opened = Lake.open(Path.of(lake));
        Terminal terminal =
            TerminalBuilder.builder()
                .system(false)
                .streams(input, shown)
                .type("dumb")
                .encoding(StandardCharsets.UTF_8)
                .build()) {
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
            "SELECT id,\n note\nFROM tide.levels\nWHERE id = 1;\nschema tide\nSTART TRANSACTION; DELETE FROM levels;\nSELECT nope FROM levels;\nROLLBACK;\ncolumns levels\nhelp\nSELECT count(*) AS n FROM levels;\nquit\nDELETE FROM levels;\n");

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
}
