package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.Bookmark;
import org.ysteron.report.Position;
import org.ysteron.report.TableVersion;

/** Processes killed with -9 in the middle of each kind of change. */
class KillTest {
  private static final int KILLS = Integer.getInteger("ysteron.change.kills", 2);

  @TempDir Path directory;

  private BufferedReader start(String kind, int first, List<Process> started) throws IOException {
    Process process =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                ChangeProcess.class.getName(),
                directory.resolve("lake").toString(),
                kind,
                String.valueOf(first))
            .redirectErrorStream(true)
            .start();
    started.add(process);
    return new BufferedReader(
        new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8));
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "update",
        "delete",
        "upsert",
        "merge",
        "named",
        "rewrite",
        "alter",
        "self",
        "copy",
        "refused",
        "late",
        "grow",
        "regrow",
        "shared",
        "rewind",
        "staged change",
        "staged update",
        "compact",
        "measure",
        "expire",
        "sweep",
        "erase",
        "position"
      })
  void aKilledChangeIsThereOrNot(String kind) throws Exception {
    try (Lake lake = Lake.create(directory.resolve("lake"))) {
      Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.INTEGER));
      lake.createTable("t.y", schema.withKey("k"));
      Table table = lake.createTable("t.x", schema.withKey("k"));
      try (Append append = table.append()) {
        for (int k = 0; k < ChangeProcess.ROWS && !kind.equals("named"); k++) {
          append.add(k, 0);
        }
        append.commit();
      }
    }
    Random random = new Random(5);
    int last = kind.equals("named") ? -1 : 0;
    for (int kill = 0; kill < KILLS; kill++) {
      List<Process> started = new ArrayList<>();
      BufferedReader output = start(kind, last + 1, started);
      assertThat(output.readLine()).isEqualTo("ready");
      long moment = System.nanoTime() + random.nextInt(900_000_000);
      while (System.nanoTime() < moment) {
        Thread.onSpinWait();
      }
      started.get(0).toHandle().destroyForcibly();
      started.get(0).waitFor();
      String line = output.readLine();
      while (line != null) {
        assertThat(line).startsWith("committed ");
        last = Integer.parseInt(line.substring("committed ".length()));
        line = output.readLine();
      }
      last = check(kind, last);
    }
  }

  private static Map<Object, Object> rows(TableView view) {
    Map<Object, Object> rows = new HashMap<>();
    view.scan().rows().forEach(row -> rows.put(row.get("k"), row.get("v")));
    return rows;
  }

  /** What is there: what was acknowledged last, or the change after it. */
  private int check(String kind, int acknowledged) {
    List<Integer> keys = new ArrayList<>();
    List<Integer> values = new ArrayList<>();
    try (Lake lake = Lake.open(directory.resolve("lake"))) {
      for (Row row : lake.table("t.x").scan().rows()) {
        keys.add((Integer) row.get("k"));
        values.add((Integer) row.get("v"));
      }
      // Whatever was being let go, what is kept can be read, by number and as of its commit.
      for (TableVersion version : lake.table("t.x").history(1000)) {
        long rows = version.totals().rows();
        assertThat(lake.table("t.x").at(version.version()).scan().rows().stream())
            .hasSize((int) rows);
        assertThat(lake.at(version.commit().time()).table("t.x").scan().count()).isEqualTo(rows);
      }
      for (Position position : lake.positions()) {
        long read = position.tables().get(0).version();
        assertThat(rows(lake.table("t.y").now())).isEqualTo(rows(lake.table("t.x").at(read)));
      }
      for (Bookmark mark : lake.bookmarks()) {
        lake.atBookmark(mark.name()).table("t.x").scan().count();
      }
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
    assertThat(keys).doesNotHaveDuplicates();
    int found = values.stream().mapToInt(v -> v).max().orElse(-1);
    assertThat(found).isBetween(acknowledged, acknowledged + 1);
    if (kind.equals("named")) {
      assertThat(keys).hasSize(found + 1);
    } else {
      assertThat(values).hasSize(ChangeProcess.ROWS).containsOnly(found);
    }
    return found;
  }
}
