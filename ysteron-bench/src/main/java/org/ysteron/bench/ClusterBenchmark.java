package org.ysteron.bench;

import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.time.LocalDate;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.expr.Condition;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.Explanation;
import org.ysteron.store.LocalStore;

/**
 * Six million rows in at least 400 files, as they came, sorted by one of two columns, and along a
 * curve over both: how many files a box of one hundredth of the values of each opens. The columns
 * have nothing to do with each other.
 */
final class ClusterBenchmark implements Main.Benchmark {
  private static final long FILE_BYTES = Size.of(280 << 10, 60 << 10);
  private static final int BOXES = Size.of(25, 3);
  private static final int PARTS = Size.of(200_000, 2_000);
  private static final int FEWEST_FILES = Size.of(400, 8);
  private static final LocalDate FIRST = LocalDate.of(1992, 1, 2);
  private static final int DAYS = 2526;

  @Override
  public boolean run(Path directory) throws IOException {
    try (Lake lake =
        Lake.create(new LocalStore(directory.resolve("lake")), LakeOptions.DEFAULTS.threads(2))) {
      Table table = LineItems.table(lake, "bench.lineitem", FILE_BYTES);
      double plain = opened(table, "as they came");
      lay(table, LayoutPlan.none().sortedBy("partkey"));
      double sorted = opened(table, "sorted by one");
      lay(table, LayoutPlan.none().along("partkey", "shipdate"));
      double curve = opened(table, "along a curve");
      System.out.printf(
          "share of the files: %.4f as they came, %.4f sorted, %.4f along a curve%n",
          plain, sorted, curve);
      return Timing.ratio("files opened by a box of 1 % x 1 %", curve, 0.05);
    }
  }

  private static void lay(Table table, LayoutPlan plan) {
    long start = System.nanoTime();
    table.alter().layout(plan).run();
    CompactionReport report = table.compact().renewing().run();
    System.out.printf(
        "%s: %d files to %d in %.1f s%n",
        plan, report.read().files(), report.written().files(), (System.nanoTime() - start) / 1e9);
  }

  /** The mean share of files that boxes here and there open, of both columns and of each. */
  private static double opened(Table table, String how) {
    double both = 0;
    double first = 0;
    double second = 0;
    for (int box = 0; box < BOXES; box++) {
      int part = 1 + (int) ((PARTS - PARTS / 100) * (long) box / BOXES);
      LocalDate day = FIRST.plusDays((DAYS - DAYS / 100) * (long) (box * 7 % BOXES) / BOXES);
      Condition parts = column("partkey").between(part, part + PARTS / 100 - 1);
      Condition days = column("shipdate").between(day, day.plusDays(DAYS / 100 - 1));
      both += share(table, parts.and(days));
      first += share(table, parts);
      second += share(table, days);
    }
    System.out.printf(
        "%s, %d files: a box opens %.4f of them, a range of one column %.4f, of the other %.4f%n",
        how, files(table), both / BOXES, first / BOXES, second / BOXES);
    if (files(table) < FEWEST_FILES) {
      throw new IllegalStateException("too few files");
    }
    return both / BOXES;
  }

  private static int files(Table table) {
    return table.now().files().size();
  }

  private static double share(Table table, Condition condition) {
    Explanation plan = table.scan().where(condition).explain();
    return (double) (plan.opened().filesWhole() + plan.opened().filesFiltered()) / plan.files();
  }
}
