package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * Eight writers committing appends of one row as fast as they can: to a table each, and all to one;
 * against as many threads creating objects with fsync. The writers are threads of one process with
 * one open lake; for comparison, each has the lake open for itself, as processes have.
 */
final class WritersBenchmark implements Main.Benchmark {
  private static final int WRITERS = 8;
  private static final long NANOS = Size.of(4_000_000_000L, 100_000_000L);

  private interface Work {
    void once(int writer);
  }

  @Override
  public boolean run(Path directory) throws IOException {
    Path place = directory.resolve("lake");
    try (Lake lake = Lake.create(place)) {
      for (int w = 0; w < WRITERS; w++) {
        lake.createTable("bench.t" + w, Schema.of(Field.of("n", Types.BIGINT)));
      }
    }
    LocalStore bare = new LocalStore(directory.resolve("bare"));
    bare.makeRoot();
    byte[] content = new byte[3000];
    List<Double> ofBare = new ArrayList<>();
    List<Double> ofEight = new ArrayList<>();
    List<Double> ofOne = new ArrayList<>();
    List<Double> ofStrangers = new ArrayList<>();
    for (int round = 0; round < Size.of(3, 1); round++) {
      ofBare.add(perSecond(w -> bare.createIfAbsent("x/" + UUID.randomUUID(), content)));
      ofEight.add(appends(place, true, false));
      ofOne.add(appends(place, false, false));
      ofStrangers.add(appends(place, false, true));
    }
    double base = Timing.median(ofBare);
    System.out.printf(
        "creates %.0f/s; commits to 8 tables %.0f/s, to one table %.0f/s, by 8 lakes apart %.0f/s%n",
        base, Timing.median(ofEight), Timing.median(ofOne), Timing.median(ofStrangers));
    boolean kept = atLeast("8 writers, 8 tables / creates", Timing.median(ofEight) / base);
    return atLeast("8 writers, one table / creates", Timing.median(ofOne) / base) && kept;
  }

  private static boolean atLeast(String name, double value) {
    boolean kept = value >= 0.5;
    System.out.printf("ratio %s: %.3f (at least 0.500) %s%n", name, value, kept ? "ok" : "BELOW");
    return kept;
  }

  private static double appends(Path place, boolean apart, boolean strangers) {
    List<Lake> lakes = new ArrayList<>();
    List<Table> tables = new ArrayList<>();
    for (int w = 0; w < WRITERS; w++) {
      if (strangers || w == 0) {
        lakes.add(Lake.open(new LocalStore(place), LakeOptions.DEFAULTS.threads(1)));
      }
      tables.add(lakes.get(lakes.size() - 1).table("bench.t" + (apart ? w : 0)));
    }
    long before = rows(lakes.get(0));
    AtomicLong commits = new AtomicLong();
    double rate =
        perSecond(
            w -> {
              try (Append append = tables.get(w).append()) {
                append.add(1L);
                append.commit();
                commits.incrementAndGet();
              }
            });
    long lost = before + commits.get() - rows(lakes.get(0));
    lakes.forEach(Lake::close);
    if (lost != 0) {
      throw new IllegalStateException(lost + " commits were lost");
    }
    return rate;
  }

  private static long rows(Lake lake) {
    return lake.tables().stream().mapToLong(table -> table.totals().rows()).sum();
  }

  private static double perSecond(Work work) {
    AtomicLong done = new AtomicLong();
    long end = System.nanoTime() + NANOS;
    double seconds =
        SideBySide.seconds(
            WRITERS,
            writer -> {
              while (System.nanoTime() < end) {
                work.once(writer);
                done.incrementAndGet();
              }
            });
    return done.get() / seconds;
  }
}
