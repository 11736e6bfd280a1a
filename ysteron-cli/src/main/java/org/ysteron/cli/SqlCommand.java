package org.ysteron.cli;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.error.InvalidInputException;
import org.ysteron.sql.SqlSession;
import org.ysteron.sql.text.SqlText;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron sql}. */
@Command(
    name = "sql",
    description = {
      "Run SQL statements, or start a shell for them.",
      "Statements end with a semicolon. Without -e and --file they are read from standard input; on a terminal that is a shell with history, several lines and completion, in which Ctrl-C cancels the statement. START TRANSACTION makes one commit of several statements. The shell's own words are shown by: help"
    },
    footerHeading = Main.EXAMPLE,
    footer =
        "  ysteron sql -e \"UPDATE tide.gauges SET name = 'Old pier' WHERE gauge_id = 'ORR-01'\"")
final class SqlCommand extends LakeCommand {
  @Option(
      names = {"-e", "--execute"},
      paramLabel = "SQL",
      description = "Statements to run. Can be given several times.")
  private List<String> statements = new ArrayList<>();

  @Option(
      names = {"-f", "--file"},
      paramLabel = "FILE",
      description = "File with statements to run.")
  private Path file;

  @Option(
      names = "--schema",
      paramLabel = "NAMESPACE",
      description = "Namespace of tables whose names are given alone, such as tide.")
  private String schema;

  @Option(names = "--timing", description = "Print the time that each statement takes.")
  private boolean timing;

  @Option(names = "--read-only", description = "Refuse statements that change something.")
  private boolean readOnly;

  @Option(
      names = "--history-file",
      paramLabel = "FILE",
      defaultValue = "${env:YSTERON_HISTORY:-${sys:user.home}/.ysteron-history}",
      description = "History of the shell (default: $YSTERON_HISTORY, or ~/.ysteron-history).")
  private Path history;

  @Mixin private WriteOptions write;

  @Mixin private Listing.Options listing;

  @Override
  boolean prints() {
    return true;
  }

  @Override
  void run(LakeHandle opened) {
    ShellMonitor monitor = new ShellMonitor(progress());
    LakeHandle lake = write.applyTo(opened.watchedBy(monitor), "");
    try (SqlSession session = new SqlSession(lake)) {
      session.setSchema(Optional.ofNullable(schema));
      session.setReadOnly(readOnly);
      SqlShell shell = new SqlShell(session, out(), listing, timing);
      if (!statements.isEmpty() || file != null) {
        statements.forEach(text -> script(shell, text));
        if (file != null) {
          script(shell, read());
        }
      } else if (Output.IS_TYPED && Output.ON_TERMINAL) {
        new ShellTerminal(shell, monitor, history).run();
        return;
      } else {
        script(shell, standardInput());
      }
      if (session.inTransaction()) {
        throw new InvalidInputException(
            "The statements end within a transaction, which was rolled back. Write COMMIT behind the last one.");
      }
    }
  }

  /** Runs the statements of a text until one of them fails. */
  private static void script(SqlShell shell, String text) {
    for (String statement : SqlText.statements(text)) {
      if (!shell.run(statement.strip())) {
        return;
      }
    }
  }

  private String read() {
    try {
      return Files.readString(file);
    } catch (IOException e) {
      throw new InvalidInputException("The file %s cannot be read: %s".formatted(file, e), e);
    }
  }

  private static String standardInput() {
    try (StandardInput input = new StandardInput(System.in)) {
      return new String(input.readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }
}
