package org.ysteron.option;

import java.time.Duration;
import java.util.Optional;
import java.util.OptionalLong;
import org.ysteron.error.InvalidInputException;

/**
 * How much upkeep may be done in one run. No further part is begun once one of the limits is
 * reached; the part that reaches it is finished.
 *
 * @param bytes of data files that are read
 * @param files data files that are read
 * @param time since the run began
 */
public record Budget(OptionalLong bytes, OptionalLong files, Optional<Duration> time) {
  /** No limit. */
  public static final Budget ALL =
      new Budget(OptionalLong.empty(), OptionalLong.empty(), Optional.empty());

  /**
   * Checks that there is something to spend.
   *
   * @throws InvalidInputException when a limit is 0 or negative
   */
  public Budget {
    bytes.ifPresent(limit -> check(limit > 0, limit + " bytes"));
    files.ifPresent(limit -> check(limit > 0, limit + " files"));
    time.ifPresent(limit -> check(!limit.isNegative() && !limit.isZero(), "time " + limit));
  }

  private static void check(boolean isSome, String limit) {
    if (!isSome) {
      throw new InvalidInputException(
          "A limit of %s allows no work. Give a larger limit, or none.".formatted(limit));
    }
  }

  /** The same with at most so many bytes read. */
  public Budget ofBytes(long most) {
    return new Budget(OptionalLong.of(most), files, time);
  }

  /** The same with at most so many files read. */
  public Budget ofFiles(long most) {
    return new Budget(bytes, OptionalLong.of(most), time);
  }

  /** The same with at most so much time. */
  public Budget ofTime(Duration most) {
    return new Budget(bytes, files, Optional.of(most));
  }

  /** Whether so much uses up one of the limits. */
  public boolean isSpent(long bytesRead, long filesRead, Duration since) {
    return bytesRead >= bytes.orElse(Long.MAX_VALUE)
        || filesRead >= files.orElse(Long.MAX_VALUE)
        || time.map(most -> since.compareTo(most) >= 0).orElse(false);
  }
}
