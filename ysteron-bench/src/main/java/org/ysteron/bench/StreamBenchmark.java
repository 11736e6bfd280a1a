package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.ysteron.Lake;
import org.ysteron.Table;

/**
 * Two writers of 2,000 rows a second each for 20 seconds, and two followers: how long after a row
 * was made a follower has it, and how many files that takes.
 */
final class StreamBenchmark implements Main.Benchmark {
  private static final int SECONDS = Size.of(20, 1);

  @Override
  public boolean run(Path directory) throws IOException {
    Path place = directory.resolve("lake");
    LiveRows live = new LiveRows(place, SECONDS + LiveRows.WARM_UP);
    List<List<Long>> lags = List.of(new ArrayList<>(), new ArrayList<>());
    long commits;
    try (Lake lake = Lake.create(place)) {
      Table table = LiveRows.create(lake);
      List<Thread> threads = new ArrayList<>();
      for (int i = 0; i < LiveRows.WRITERS; i++) {
        int number = i;
        threads.add(new Thread(() -> live.write(number)));
        threads.add(new Thread(() -> live.follow(lags.get(number))));
      }
      threads.forEach(Thread::start);
      for (Thread thread : threads) {
        thread.join();
      }
      commits = table.now().version();
    } catch (InterruptedException e) {
      throw new IllegalStateException(e);
    }
    boolean kept = true;
    for (List<Long> lag : lags) {
      Collections.sort(lag);
      if (lag.size() != LiveRows.WRITERS * LiveRows.PER_SECOND * SECONDS) {
        throw new IllegalStateException("a follower has " + lag.size() + " rows");
      }
      System.out.printf("lag: median %d ms%n", lag.get(lag.size() / 2));
      kept &=
          Timing.ratio("lag at the 99th percentile, s", lag.get(lag.size() * 99 / 100) / 1e3, 1);
    }
    double perSecond = (double) commits / LiveRows.WRITERS / (SECONDS + LiveRows.WARM_UP);
    return Timing.ratio("files per second and writer", perSecond, 1) && kept;
  }
}
