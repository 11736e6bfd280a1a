package org.ysteron.option;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.OptionalLong;
import org.ysteron.error.InvalidInputException;

/**
 * How a process uses a lake that it opens. These options are not stored in the lake. Immutable:
 * each method returns changed options.
 *
 * <pre>{@code
 * Lake lake = Lake.open(directory, LakeOptions.DEFAULTS.threads(2).memory(64 << 20));
 * }</pre>
 *
 * @param clock gives commits their time
 * @param threads how many threads read and write; empty for one for each processor
 * @param memory about how many bytes of rows a call holds in memory: rows that are read ahead,
 *     sorted, or kept for a merge. The rest waits in temporary files. Empty for a quarter of the
 *     heap
 * @param cache about how many bytes of metadata pages and file footers are kept for later calls
 * @param temporaryDirectory where temporary files are made; empty for the system's directory
 * @param retryTime how long a call starts again after conflicts with other commits
 */
public record LakeOptions(
    Clock clock,
    OptionalInt threads,
    OptionalLong memory,
    long cache,
    Optional<Path> temporaryDirectory,
    Duration retryTime) {
  private static final int LEAST_MEMORY = 1 << 20;

  /** The system's clock, a thread for each processor, 24 MiB of cache, retries for ten minutes. */
  public static final LakeOptions DEFAULTS =
      new LakeOptions(
          Clock.systemUTC(),
          OptionalInt.empty(),
          OptionalLong.empty(),
          24 << 20,
          Optional.empty(),
          Duration.ofMinutes(10));

  /**
   * Checks the values.
   *
   * @throws InvalidInputException when the number of threads, the cache or the time is negative, or
   *     the memory is less than 1 MiB
   */
  public LakeOptions {
    if (threads.isPresent() && threads.getAsInt() < 0) {
      throw wrong(threads.getAsInt() + " threads", "Give 0 or more");
    }
    if (memory.isPresent() && memory.getAsLong() < LEAST_MEMORY) {
      throw wrong("a memory of " + memory.getAsLong() + " bytes", "Give 1048576 bytes or more");
    }
    if (cache < 0) {
      throw wrong("a cache of " + cache + " bytes", "Give 0 or more");
    }
    if (retryTime.isNegative()) {
      throw wrong("a retry time of " + retryTime, "Give PT0S or more");
    }
  }

  private static InvalidInputException wrong(String what, String advice) {
    return new InvalidInputException(
        "A lake cannot be opened with %s. %s.".formatted(what, advice));
  }

  /** The clock that gives commits their time. */
  public LakeOptions clock(Clock other) {
    return new LakeOptions(other, threads, memory, cache, temporaryDirectory, retryTime);
  }

  /** So many threads that read and write; with 0 the caller's thread does all the work. */
  public LakeOptions threads(int count) {
    return new LakeOptions(
        clock, OptionalInt.of(count), memory, cache, temporaryDirectory, retryTime);
  }

  /** About so many bytes of rows that a call holds in memory. */
  public LakeOptions memory(long bytes) {
    return new LakeOptions(
        clock, threads, OptionalLong.of(bytes), cache, temporaryDirectory, retryTime);
  }

  /** About so many bytes of metadata pages and file footers that are kept for later calls. */
  public LakeOptions cache(long bytes) {
    return new LakeOptions(clock, threads, memory, bytes, temporaryDirectory, retryTime);
  }

  /** The directory for temporary files; it exists and is on a local disk. */
  public LakeOptions temporaryDirectory(Path directory) {
    return new LakeOptions(clock, threads, memory, cache, Optional.of(directory), retryTime);
  }

  /**
   * How long a call starts again after conflicts with other commits, before it ends with a {@link
   * org.ysteron.error.ConflictException}; a try that has begun is finished.
   */
  public LakeOptions retryTime(Duration time) {
    return new LakeOptions(clock, threads, memory, cache, temporaryDirectory, time);
  }
}
