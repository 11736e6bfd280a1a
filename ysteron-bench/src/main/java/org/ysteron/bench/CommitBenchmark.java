package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Instant;
import java.util.UUID;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * Committing an append of one small file, against one create-if-absent with fsync of an object as
 * large as the commit's entry.
 */
final class CommitBenchmark implements Main.Benchmark {
  private static final int WARM_UPS = Size.of(1500, 10);

  @Override
  public boolean run(Path directory) throws IOException {
    LocalStore bare = new LocalStore(directory.resolve("bare"));
    bare.makeRoot();
    LocalStore store = new LocalStore(directory.resolve("lake"));
    try (Lake lake =
        Lake.create(new LocalStore(directory.resolve("lake")), LakeOptions.DEFAULTS.threads(1))) {
      Table table =
          lake.createTable(
              "bench.readings",
              Schema.of(
                  Field.of("gauge_id", Types.text(12)),
                  Field.of("taken_at", Types.INSTANT),
                  Field.of("level_cm", Types.decimal(7, 1)),
                  Field.of("battery_mv", Types.INTEGER)));
      for (int i = 0; i < WARM_UPS; i++) {
        append(table);
      }
      long newest = lake.now().commit().entry();
      byte[] content = store.read(PageHome.entryName(newest));
      System.out.println("an entry has " + content.length + " bytes");
      Timing timing =
          new Timing()
              .add(
                  "create-if-absent of as many bytes, fsync",
                  () -> bare.createIfAbsent("x/" + UUID.randomUUID(), content))
              .add("append of one row, committed", () -> append(table))
              .run(20, 501);
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
