package org.ysteron.bench;

import com.sun.management.OperatingSystemMXBean;
import java.lang.management.ManagementFactory;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/** Measures several things in turns and compares their medians. */
final class Timing {
  private final List<String> names = new ArrayList<>();
  private final List<Work> works = new ArrayList<>();
  private final boolean ofProcessor;
  private double[][] millis;

  /** What is measured. */
  interface Work {
    void run() throws java.io.IOException;
  }

  Timing() {
    this(false);
  }

  private Timing(boolean ofProcessor) {
    this.ofProcessor = ofProcessor && !Size.IS_TINY; // its clock is too coarse for that
  }

  /** Measures the processor time of all threads instead of the time that passes. */
  static Timing ofProcessor() {
    return new Timing(true);
  }

  private long nanos() {
    if (!ofProcessor) {
      return System.nanoTime();
    }
    return ((OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean())
        .getProcessCpuTime();
  }

  Timing add(String name, Work work) {
    names.add(name);
    works.add(work);
    return this;
  }

  /** Runs all in turns: some rounds unmeasured, then measured ones. */
  Timing run(int mostWarmUps, int mostRounds) throws java.io.IOException {
    int warmUps = Math.min(mostWarmUps, Size.of(mostWarmUps, 1));
    int rounds = Math.min(mostRounds, Size.of(mostRounds, 3));
    millis = new double[works.size()][rounds];
    for (int round = -warmUps; round < rounds; round++) {
      for (int w = 0; w < works.size(); w++) {
        long start = nanos();
        works.get(w).run();
        if (round >= 0) {
          millis[w][round] = (nanos() - start) / 1e6;
        }
      }
    }
    for (int w = 0; w < works.size(); w++) {
      System.out.printf("%-42s %10.2f ms (median of %d)%n", names.get(w), median(w), rounds);
      if (System.getenv("ALL_TIMES") != null) {
        System.out.println("  " + Arrays.toString(millis[w]));
      }
    }
    return this;
  }

  double median(int work) {
    return median(Arrays.stream(millis[work]).boxed().toList());
  }

  /** The middle one of some values. */
  static double median(List<Double> values) {
    return values.stream().sorted().skip(values.size() / 2).findFirst().orElseThrow();
  }

  static double median(double[] values) {
    return median(Arrays.stream(values).boxed().toList());
  }

  /** Prints a ratio with its limit; false when it is above. */
  static boolean ratio(String name, double value, double limit) {
    boolean kept = value <= limit;
    System.out.printf(
        "ratio %s: %.3f (limit %.3f) %s%n", name, value, limit, kept ? "ok" : "ABOVE");
    return kept;
  }
}
