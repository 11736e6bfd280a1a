package org.ysteron.bench;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.expr.Condition;
import org.ysteron.report.WriteResult;

/** Deleting one hundredth of six million rows, against reading all of them once. */
final class DeleteBenchmark implements Main.Benchmark {
  private static final long ORDER_KEYS = Size.of(6_000_000, 60_000);
  private static final long PART_KEYS = Size.of(200_000, 2_000);

  private long sortedFrom;
  private long randomFrom = 1;

  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory.resolve("lake"))) {
      Table table = LineItems.table(lake, "bench.lineitem", 16L << 20);
      System.out.println(table.now().files().size() + " data files");
      Timing timing =
          new Timing()
              .add("full scan, 16 columns", () -> ScanBenchmark.scan(table))
              .add("delete 1 % by the sorted column", () -> sorted(table))
              .add("delete 1 % at random", () -> random(table))
              .run(1, 7);
      boolean kept =
          Timing.ratio(
              "delete by the sorted column / full scan", timing.median(1) / timing.median(0), 0.15);
      return Timing.ratio("delete at random / full scan", timing.median(2) / timing.median(0), 1.5)
          && kept;
    }
  }

  private void sorted(Table table) {
    delete(table, column("orderkey").between(sortedFrom, sortedFrom + ORDER_KEYS / 100 - 1));
    sortedFrom += ORDER_KEYS / 100;
  }

  private void random(Table table) {
    delete(table, column("partkey").between(randomFrom, randomFrom + PART_KEYS / 100 - 1));
    randomFrom += PART_KEYS / 100;
  }

  private static void delete(Table table, Condition condition) {
    WriteResult result = table.delete().where(condition).run();
    if (result.report().rowsDeleted() < ORDER_KEYS / 150) {
      throw new IllegalStateException("deleted only " + result.report());
    }
  }
}
