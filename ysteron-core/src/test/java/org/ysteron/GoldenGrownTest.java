package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.Drift;
import org.ysteron.option.TableSettings;

/**
 * A lake written by this program, kept as files: a table that grew by loads and by an upsert, with
 * what was set aside.
 */
class GoldenGrownTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-grown");

  @TempDir Path directory;

  /** Writes a lake to keep. */
  public static void main(String[] arguments) {
    Schema schema =
        Schema.of(Field.of("gauge", Types.text()), Field.of("level", Types.INTEGER).notNull());
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table feed = lake.createTable("t.feed", schema.withKey("gauge"));
      feed.alter().set(TableSettings.DRIFT, Drift.GROW_OR_SET_ASIDE.word()).run();
      feed.alter().set(TableSettings.MAX_COLUMNS, 3).run();
      try (Append append = feed.append()) {
        append.add("ORR-1", 5);
        append.addText(text("ORR-2", "3000000000", "02134", "2026-03-01"));
        append.addObject(Map.of("gauge", "ORR-3", "level", 7, "zip", "x", "zone", 1));
        append.commit();
      }
      feed.upsert(
              MergeSource.named(
                  to -> {
                    to.addText(text("ORR-1", "2.5", "1", "2026-03-01T12:00:00"));
                    to.addObject(Map.of("gauge", "ORR-4", "level", 1, "at", Map.of("lat", 47.25)));
                  }))
          .run();
    }
  }

  private static TextRow text(String... values) {
    return new TextRow(List.of("gauge", "level", "zip", "seen"), values);
  }

  private static List<String> rows(Scan scan) {
    List<String> rows = new ArrayList<>();
    for (Row row : scan.rows()) {
      rows.add(row.toString());
    }
    java.util.Collections.sort(rows);
    return rows;
  }

  @Test
  void everyVersionIsRead() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table feed = lake.table("t.feed");
      assertThat(rows(feed.at(3).scan()))
          .containsExactly(
              "{gauge=ORR-1, level=5, zip=null, zone=null, seen=null}",
              "{gauge=ORR-2, level=3000000000, zip=02134, zone=null, seen=2026-03-01}",
              "{gauge=ORR-3, level=7, zip=x, zone=1, seen=null}");
      assertThat(rows(feed.scan()))
          .containsExactly(
              "{gauge=ORR-1, level=2.5, zip=1, zone=null, seen=2026-03-01T12:00, at=null}",
              "{gauge=ORR-2, level=3000000000.0, zip=02134, zone=null, seen=2026-03-01T00:00, at=null}",
              "{gauge=ORR-3, level=7.0, zip=x, zone=1, seen=null, at=null}",
              "{gauge=ORR-4, level=1.0, zip=null, zone=null, seen=null, at={lat=47.25}}");
      assertThat(feed.now().record().operation()).isEqualTo("grow + upsert");
    }
  }

  @Test
  void itGrowsOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table feed = lake.table("t.feed");
      try (Append append = feed.append()) {
        append.addObject(Map.of("gauge", "ORR-5", "level", 1, "seen", "soon", "a", 1, "b", 2));
        append.commit();
      }
      assertThat(feed.scan().columns("leftovers").rows().toList().get(4).get(0))
          .isEqualTo("{\"seen\":\"soon\"}");
      assertThatThrownBy(
              () -> {
                try (Append append = feed.append(rules -> rules.with(Drift.GROW))) {
                  append.addObject(Map.of("gauge", "ORR-6", "level", 1, "seen", "soon"));
                }
              })
          .isInstanceOf(InvalidInputException.class);
    }
  }
}
