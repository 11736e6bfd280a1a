package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.apache.parquet.schema.MessageType;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.LocalStore;

/** Appending six million rows of 16 columns, against the bare Parquet library. */
final class AppendBenchmark implements Main.Benchmark {
  static final long GROUP_BYTES = TableSettings.DEFAULTS.number(TableSettings.GROUP_BYTES);
  private int round;

  @Override
  public boolean run(Path directory) throws IOException {
    List<Batch> batches = LineItems.batches(LineItems.SCALE);
    MessageType schema = BareSchema.of(LineItems.schema());
    Timing timing =
        new Timing()
            .add(
                "bare Parquet library, 1 thread",
                () -> {
                  Path file = directory.resolve("bare-" + round++ + ".parquet");
                  BareParquet.write(file, schema, batches, GROUP_BYTES);
                  Files.delete(file);
                })
            .add("append, 1 thread", () -> append(directory, batches, 1))
            .add("append, 2 threads", () -> append(directory, batches, 2))
            .run(1, 5);
    System.out.printf(
        "with two threads: %.3f of the bare library with one%n",
        timing.median(2) / timing.median(0));
    return Timing.ratio("append / bare Parquet", timing.median(1) / timing.median(0), 1.15);
  }

  private void append(Path directory, List<Batch> batches, int threads) throws IOException {
    Path path = directory.resolve("lake-" + round++);
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(threads))) {
      Table table = lake.createTable("bench.lineitem", LineItems.schema());
      try (Append append = table.append()) {
        batches.forEach(append::addBatch);
        append.commit();
      }
    }
    Main.delete(path);
  }
}
