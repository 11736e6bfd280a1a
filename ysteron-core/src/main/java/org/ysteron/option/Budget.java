package org.ysteron.option;

import java.time.Duration;
import java.util.Optional;
import java.util.OptionalLong;
import org.ysteron.error.InvalidInputException;

/**
 * A limit on the work of one run. When a limit is reached, the current part is finished and no
 * further part is started.
 *
 * @param bytes bytes of data files to read
 * @param files number of data files to read
 * @param time since the run began
 */
public record Budget(OptionalLong bytes, OptionalLong files, Optional<Duration> time) {
  /** No limit. */
  public static final Budget ALL =
      new Budget(OptionalLong.empty(), OptionalLong.empty(), Optional.empty());

  /**
   * Checks the limits.
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

  /** This budget with a limit of bytes to read. */
  public Budget ofBytes(long most) {
    return new Budget(OptionalLong.of(most), files, time);
  }

  /** This budget with a limit of files to read. */
  public Budget ofFiles(long most) {
    return new Budget(bytes, OptionalLong.of(most), time);
  }

  /** This budget with a limit of time. */
  public Budget ofTime(Duration most) {
    return new Budget(bytes, files, Optional.of(most));
  }

  /** Whether this much work reaches one of the limits. */
  public boolean isSpent(long bytesRead, long filesRead, Duration since) {
    return bytesRead >= bytes.orElse(Long.MAX_VALUE)
        || filesRead >= files.orElse(Long.MAX_VALUE)
        || time.map(most -> since.compareTo(most) >= 0).orElse(false);
  }
}
