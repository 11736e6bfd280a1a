package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Stream;

/** Runs a benchmark by name. */
public final class Main {
  private Main() {}

  /** A benchmark: works in a directory of its own and says whether it kept to its limits. */
  interface Benchmark {
    boolean run(Path directory) throws IOException;
  }

  /** All of them by their names. */
  static Map<String, Benchmark> all() {
    Map<String, Benchmark> all = new LinkedHashMap<>();
    all.put("append", new AppendBenchmark());
    all.put("scan", new ScanBenchmark());
    all.put("range", new RangeBenchmark());
    all.put("filter", new FilterBenchmark());
    all.put("sql", new SqlBenchmark());
    all.put("sql-changes", new SqlChangesBenchmark());
    all.put("commit", new CommitBenchmark());
    all.put("many-files", new ManyFilesBenchmark());
    all.put("merge", new MergeBenchmark());
    all.put("keys", new KeysBenchmark());
    all.put("grow", new GrowBenchmark());
    all.put("delete", new DeleteBenchmark());
    all.put("changes", new ChangesBenchmark());
    all.put("masked-scan", new MaskedScanBenchmark());
    all.put("old-files", new OldFilesBenchmark());
    all.put("writers", new WritersBenchmark());
    all.put("stream", new StreamBenchmark());
    all.put("rewind", new RewindBenchmark());
    all.put("compact", new CompactBenchmark());
    all.put("cluster", new ClusterBenchmark());
    all.put("compact-beside", new CompactBesideBenchmark(Size.of(60, 1)));
    all.put("expire", new ExpireBenchmark());
    all.put("sweep", new SweepBenchmark());
    all.put("long-lake", new LongLakeBenchmark());
    all.put("check", new CheckBenchmark());
    all.put("scan --duckdb", new OtherScanBenchmark());
    return all;
  }

  /** Runs the named benchmark. */
  public static void main(String[] arguments) throws IOException {
    Map<String, Benchmark> all = all();
    String names = String.join("|", all.keySet());
    String name = String.join(" ", arguments);
    if (name.matches("many-files --delay \\d{1,4}")) {
      all.put(name, new DelayedPlanBenchmark(Integer.parseInt(arguments[2])));
    }
    if (!all.containsKey(name)) {
      System.err.println("usage: ./bench " + names);
      System.err.println("       ./bench many-files --delay MILLISECONDS");
      System.exit(2);
    }
    Path directory = Files.createTempDirectory(Path.of("target"), "bench");
    boolean kept;
    try {
      kept = all.get(name).run(directory);
    } finally {
      delete(directory);
    }
    System.exit(kept ? 0 : 1);
  }

  static void delete(Path directory) throws IOException {
    try (Stream<Path> paths = Files.walk(directory)) {
      for (Path path : paths.sorted(Comparator.reverseOrder()).toList()) {
        Files.delete(path);
      }
    }
  }
}
