package org.ysteron.bench;

/**
 * How large a benchmark is. With {@code -Dysteron.bench.tiny=true} all are so small that every one
 * of them runs within seconds; what they measure then means nothing, but it shows that they run.
 */
final class Size {
  static final String PROPERTY = "ysteron.bench.tiny";

  /** Whether benchmarks only show that they run. */
  static final boolean IS_TINY = Boolean.getBoolean(PROPERTY);

  private Size() {}

  /** One of two numbers. */
  static int of(int whole, int tiny) {
    return IS_TINY ? tiny : whole;
  }

  /** One of two numbers. */
  static long of(long whole, long tiny) {
    return IS_TINY ? tiny : whole;
  }
}
