package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Lake;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.proof.CheckDepth;

/** A signal ends a command as Ctrl-C does. */
class InterruptionTest {
  private static final String CANCELLED = "error: The call was cancelled. Nothing was changed.\n";

  @TempDir Path directory;

  private Path lake;
  private Path temporary;

  @BeforeEach
  void makeLake() throws IOException {
    lake = directory.resolve("lake");
    temporary = Files.createDirectory(directory.resolve("temporary"));
    try (Lake made = Lake.create(lake)) {
      made.createTable(
          "tide.readings",
          Schema.of(Field.of("id", Types.BIGINT), Field.of("level", Types.DOUBLE)).withKey("id"));
    }
  }

  private Process start(String... arguments) throws IOException {
    List<String> command =
        new ArrayList<>(
            List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-cp",
                System.getProperty("java.class.path"),
                "-Djava.io.tmpdir=" + temporary,
                "org.ysteron.cli.Main"));
    command.addAll(List.of(arguments));
    command.addAll(List.of("--lake", lake.toString()));
    return new ProcessBuilder(command)
        .redirectError(directory.resolve("err").toFile())
        .redirectOutput(directory.resolve("out").toFile())
        .start();
  }

  private void assertNothingHappened(Process process) throws Exception {
    process.destroy();
    assertThat(process.waitFor(30, TimeUnit.SECONDS)).isTrue();
    assertThat(Files.readString(directory.resolve("err"))).isEqualTo(CANCELLED);
    assertThat(Files.readString(directory.resolve("out"))).isEmpty();
    assertThat(temporary).isEmptyDirectory();
    try (Stream<Path> files = Files.walk(lake)) {
      assertThat(files.filter(Files::isRegularFile)).hasSize(2); // the entries
    }
    try (Lake opened = Lake.open(lake)) {
      assertThat(opened.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      assertThat(opened.table("tide.readings").versionCount()).isEqualTo(1);
    }
  }

  @Test
  void aLoadThatWaitsForInputEndsAndLeavesNothing() throws Exception {
    Process process = start("load", "tide.readings", "-", "--kind", "csv");
    StringBuilder rows = new StringBuilder("id,level\n");
    for (int i = 0; i < 300_000; i++) {
      rows.append(i).append(",1.5\n");
    }
    try (OutputStream input = process.getOutputStream()) {
      input.write(rows.toString().getBytes(StandardCharsets.UTF_8));
      input.flush();
      assertNothingHappened(process);
    }
  }

  @Test
  void anUpsertThatWaitsForInputEndsAndLeavesNothing() throws Exception {
    Process process = start("upsert", "tide.readings", "-", "--kind", "json_lines");
    try (OutputStream input = process.getOutputStream()) {
      input.write("{\"id\":1,\"level\":2.5}\n".repeat(9000).getBytes(StandardCharsets.UTF_8));
      input.flush();
      assertNothingHappened(process);
    }
  }
}
