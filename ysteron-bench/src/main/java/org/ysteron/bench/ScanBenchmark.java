package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.apache.parquet.schema.MessageType;
import org.ysteron.Lake;
import org.ysteron.Scan;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/** Scanning six million rows, 16 and 3 columns, against the fastest way of the bare library. */
final class ScanBenchmark implements Main.Benchmark {
  static final String[] THREE = {"extendedprice", "shipdate", "shipmode"};

  @Override
  public boolean run(Path directory) throws IOException {
    Path path = directory.resolve("lake");
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(1));
        Lake parallel = Lake.open(new LocalStore(path), LakeOptions.DEFAULTS.threads(2))) {
      Table table = LineItems.inOneFile(lake);
      TableView now = table.now();
      List<Path> files = now.files().stream().map(f -> path.resolve(f.name())).toList();
      MessageType all = BareSchema.of(LineItems.schema());
      MessageType three =
          new MessageType("row", Stream.of(THREE).map(name -> all.getType(name)).toList());
      long sum16 = bare(files, all);
      long sum3 = bare(files, three);
      Timing timing =
          new Timing()
              .add("bare Parquet, 16 columns, 1 thread", () -> Sums.same(sum16, bare(files, all)))
              .add("scan, 16 columns, 1 thread", () -> Sums.same(sum16, scan(table)))
              .add("bare Parquet, 3 columns, 1 thread", () -> Sums.same(sum3, bare(files, three)))
              .add("scan, 3 columns, 1 thread", () -> Sums.same(sum3, scan(table, THREE)))
              .add(
                  "scan, 16 columns, 2 threads",
                  () -> Sums.same(sum16, scan(parallel.table("bench.lineitem"))))
              .run(3, 9);
      boolean kept =
          Timing.ratio("scan of 3 columns / bare", timing.median(3) / timing.median(2), 1.10);
      kept &=
          Timing.ratio("two threads on one file / one", timing.median(4) / timing.median(1), 0.60);
      return Timing.ratio("scan of 16 columns / bare", timing.median(1) / timing.median(0), 1.10)
          && kept;
    }
  }

  private static long bare(List<Path> files, MessageType wanted) throws IOException {
    long sum = 0;
    for (Path file : files) {
      sum += BareParquet.read(file, wanted);
    }
    return sum;
  }

  static long scan(Table table, String... columns) {
    return sum(table.scan().columns(columns));
  }

  static long sum(Scan scan) {
    long sum = 0;
    try (Results<Batch> batches = scan.batches()) {
      for (Batch batch : batches) {
        sum += Sums.of(batch);
      }
    }
    return sum;
  }
}
