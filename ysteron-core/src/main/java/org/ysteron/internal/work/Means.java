package org.ysteron.internal.work;

import java.nio.file.Path;

/**
 * What the calls of a lake may use.
 *
 * @param threads how many threads read and write; with 0 the caller's does
 * @param memory about how many bytes of rows a call holds in memory
 * @param temporary the directory in which temporary files are made
 */
public record Means(int threads, long memory, Path temporary) {
  /** So many threads, a quarter of the heap, and the system's directory for temporary files. */
  public static Means of(int threads) {
    return new Means(threads, standardMemory(), standardTemporary());
  }

  /** One for each processor. */
  public static int standardThreads() {
    return Runtime.getRuntime().availableProcessors();
  }

  /** A quarter of the heap. */
  public static long standardMemory() {
    return Runtime.getRuntime().maxMemory() / 4;
  }

  /** The system's directory for temporary files. */
  public static Path standardTemporary() {
    return Path.of(System.getProperty("java.io.tmpdir"));
  }
}
