package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Types;
import org.ysteron.option.Alteration.Place;

/**
 * Reading six million rows whose files are all three schemas old, against the same rows in files of
 * the newest schema. Between them columns were added, renamed, moved, dropped and widened.
 */
final class OldFilesBenchmark implements Main.Benchmark {
  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory.resolve("lake"))) {
      Table old = LineItems.table(lake, "bench.old", 16L << 20);
      old.alter()
          .add(Field.of("warehouse", Types.text()).withDefault("north"), Place.after("orderkey"))
          .rename("comment", "remark")
          .run();
      old.alter()
          .widen("linenumber", Types.BIGINT)
          .add(Field.of("weight", Types.DOUBLE).withDefault(1.5))
          .drop("shipinstruct")
          .run();
      old.alter()
          .widen("shipdate", Types.TIMESTAMP)
          .move("shipmode", Place.FIRST)
          .add(Field.of("seen", Types.INSTANT))
          .run();
      Table fresh = lake.createTable("bench.new", old.schema(), old.now().settings());
      try (Append append = fresh.append();
          Results<Batch> batches = old.scan().batches()) {
        batches.forEach(append::addBatch);
        append.commit();
      }
      long sum = ScanBenchmark.sum(fresh.scan());
      Timing timing =
          new Timing()
              .add("scan, files of the newest schema", () -> same(sum, fresh))
              .add("scan, files three schemas old", () -> same(sum, old))
              .run(2, 9);
      return Timing.ratio("old files / new files", timing.median(1) / timing.median(0), 1.1);
    }
  }

  private static void same(long sum, Table table) {
    Sums.same(sum, ScanBenchmark.sum(table.scan()));
  }
}
