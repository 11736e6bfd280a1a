package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.report.TableVersion;

/** Real processes on one lake: two at once, and one that is killed with -9 at random moments. */
class ProcessTest {
  /** How often a process is killed; the script {@code kill-test} asks for 100. */
  private static final int KILLS = Integer.getInteger("ysteron.kills", 8);

  @TempDir Path directory;
  private Path lakeDirectory;

  @BeforeEach
  void makeLake() {
    lakeDirectory = directory.resolve("lake");
    try (Lake lake = Lake.create(lakeDirectory)) {
      lake.createTable(
          "t.n",
          Schema.of(
              Field.of("batch", Types.INTEGER).notNull(), Field.of("i", Types.INTEGER).notNull()));
    }
  }

  private Process start(int first, int appends) throws IOException {
    return new ProcessBuilder(
            Path.of(System.getProperty("java.home"), "bin", "java").toString(),
            "-XX:TieredStopAtLevel=1",
            "-cp",
            System.getProperty("java.class.path"),
            AppendProcess.class.getName(),
            lakeDirectory.toString(),
            "t.n",
            String.valueOf(first),
            String.valueOf(appends))
        .redirectErrorStream(true)
        .start();
  }

  private static BufferedReader output(Process process) {
    return new BufferedReader(
        new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
  }

  /** Reads what a process was promised, by version. */
  private static void collect(BufferedReader output, Map<Long, Integer> promised)
      throws IOException {
    String line = output.readLine();
    while (line != null) {
      collect(line, promised);
      line = output.readLine();
    }
  }

  private static void collect(String line, Map<Long, Integer> promised) {
    String[] words = line.split(" ", -1);
    assertThat(line).matches("ready|committed [0-9]+ [0-9]+");
    if (words.length == 3) {
      assertThat(promised.put(Long.parseLong(words[1]), Integer.parseInt(words[2]))).isNull();
    }
  }

  @Test
  void twoProcessesAppendTwoHundredVersionsEach() throws Exception {
    Process one = start(0, 200);
    Process two = start(1000, 200);
    Map<Long, Integer> promised = new TreeMap<>();
    collect(output(one), promised);
    collect(output(two), promised);
    assertThat(one.waitFor()).isZero();
    assertThat(two.waitFor()).isZero();
    assertThat(promised).hasSize(400).containsKeys(1L, 400L);
    try (Lake lake = Lake.open(lakeDirectory)) {
      assertThat(lake.table("t.n").now().version()).isEqualTo(400);
      assertThat(lake.table("t.n").scan().count()).isEqualTo(4000);
      check(lake, promised);
    }
  }

  @Test
  void aKilledProcessLosesNothingThatItWasPromised() throws Exception {
    Random random = new Random(11);
    Map<Long, Integer> promised = new TreeMap<>();
    for (int kill = 0; kill < KILLS; kill++) {
      Process process = start(kill * 10_000, 5_000);
      BufferedReader output = output(process);
      assertThat(output.readLine()).isEqualTo("ready");
      if (kill % 2 == 1) {
        collect(output.readLine(), promised); // on a busy machine the first commit takes its time
      }
      long moment = System.nanoTime() + random.nextInt(1_200_000_000);
      while (System.nanoTime() < moment) {
        Thread.onSpinWait();
      }
      // By its handle, as this leaves the stream open to be read to its end.
      process.toHandle().destroyForcibly();
      process.waitFor();
      collect(output, promised);
      try (Lake lake = Lake.open(lakeDirectory)) {
        check(lake, promised);
      }
    }
    assertThat(promised.size()).isGreaterThanOrEqualTo(KILLS / 2);
  }

  /** Every promised version is there with its batch, and none is torn. */
  private static void check(Lake lake, Map<Long, Integer> promised) {
    TableView now = lake.table("t.n").now();
    Map<Integer, Integer> rows = new HashMap<>();
    for (Row row : now.scan().rows()) {
      rows.merge((Integer) row.get("batch"), 1, Integer::sum);
    }
    assertThat(rows.values()).allMatch(count -> count == 10);
    assertThat(rows.keySet()).containsAll(promised.values());
    assertThat(rows).hasSize((int) now.version());
    List<TableVersion> history = now.history(Integer.MAX_VALUE);
    for (int i = 0; i < history.size(); i++) {
      assertThat(history.get(i).version()).isEqualTo(now.version() - i);
    }
    assertThat(lake.commits(Integer.MAX_VALUE)).hasSize((int) now.version() + 2);
  }
}
