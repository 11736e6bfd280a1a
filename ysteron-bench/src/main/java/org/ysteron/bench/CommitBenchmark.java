package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.UUID;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.store.LocalStore;

/** Committing an append of one small file, against one create-if-absent with fsync. */
final class CommitBenchmark implements Main.Benchmark {
  @Override
  public boolean run(Path directory) throws IOException {
    LocalStore bare = new LocalStore(directory.resolve("bare"));
    byte[] content = new byte[8 << 10];
    try (Lake lake = Lake.create(new LocalStore(directory.resolve("lake")), Clock.systemUTC(), 1)) {
      Table table =
          lake.createTable(
              "bench.readings",
              Schema.of(
                  Field.of("gauge_id", Types.text(12)),
                  Field.of("taken_at", Types.INSTANT),
                  Field.of("level_cm", Types.decimal(7, 1)),
                  Field.of("battery_mv", Types.INTEGER)));
      Timing timing =
          new Timing()
              .add(
                  "create-if-absent of 8 KiB, fsync",
                  () -> bare.createIfAbsent("x/" + UUID.randomUUID(), content))
              .add("append of one row, committed", () -> append(table))
              .run(100, 301);
      return Timing.ratio("commit / create-if-absent", timing.median(1) / timing.median(0), 3);
    }
  }

  private static void append(Table table) {
    try (Append append = table.append()) {
      append.add("ORR-01", Instant.EPOCH, java.math.BigDecimal.ONE, 12_000);
      append.commit();
    }
  }
}
