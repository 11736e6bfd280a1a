package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.expr.Condition;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/** Reading one hundredth of a sorted column's range from 100 files, against reading all of it. */
final class RangeBenchmark implements Main.Benchmark {
  private static final int FILES = Size.of(100, 4);

  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake =
        Lake.create(new LocalStore(directory.resolve("lake")), LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.createTable("bench.lineitem", LineItems.schema());
      List<Batch> batches = LineItems.batches(LineItems.SCALE);
      for (int f = 0; f < FILES; f++) {
        try (Append append = table.append()) {
          int from = batches.size() * f / FILES;
          int to = batches.size() * (f + 1) / FILES;
          batches.subList(from, to).forEach(append::addBatch);
          append.commit();
        }
      }
      batches.clear();
      long last = Size.of(6_000_000, 60_000);
      Condition hundredth = Condition.column("orderkey").between(last * 40 / 100, last * 41 / 100);
      Timing timing =
          new Timing()
              .add(
                  "full scan, 16 columns, %d files".formatted(FILES),
                  () -> ScanBenchmark.scan(table))
              .add("1 % of the sorted column", () -> rows(table, hundredth))
              .run(2, 9);
      System.out.println(rows(table, hundredth) + " rows in the range");
      return Timing.ratio("range / full scan", timing.median(1) / timing.median(0), 0.03);
    }
  }

  private static long rows(Table table, Condition condition) {
    long rows = 0;
    try (Results<Batch> batches = table.scan().where(condition).batches()) {
      for (Batch batch : batches) {
        rows += batch.size();
      }
    }
    return rows;
  }
}
