package org.ysteron.bench;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.option.ChangeStyle;

/** Reading six million rows one hundredth of which is masked, against the same unmasked. */
final class MaskedScanBenchmark implements Main.Benchmark {
  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory.resolve("lake"))) {
      Table table = LineItems.table(lake, "bench.lineitem", 16L << 20);
      var plain = table.now();
      var result =
          table
              .delete()
              .where(column("partkey").lessThan(Size.of(2_001, 21)))
              .style(ChangeStyle.MASK)
              .run();
      System.out.println(result.report());
      var masked = table.now();
      Timing timing =
          new Timing()
              .add("full scan, no row masked", () -> ScanBenchmark.sum(plain.scan()))
              .add("full scan, 1 % of the rows masked", () -> ScanBenchmark.sum(masked.scan()))
              .run(2, 9);
      return Timing.ratio("masked / unmasked", timing.median(1) / timing.median(0), 1.1);
    }
  }
}
