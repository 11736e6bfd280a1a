package org.ysteron.history;

import java.util.Optional;
import org.ysteron.report.TableVersion;

/**
 * The version that did something, as far as it can be known.
 *
 * @param after when it has expired: the last version before it that is kept, if one is
 * @param version the version itself; when it has expired the first version after it that is kept
 * @param isExact whether {@code version} is the version itself
 */
public record MadeBy(Optional<TableVersion> after, TableVersion version, boolean isExact) {

  /** In words, such as "version 7", or "after version 3, until version 7". */
  @Override
  public String toString() {
    if (isExact) {
      return "version " + version.version();
    }
    return after.map(kept -> "after version " + kept.version() + ", until").orElse("until")
        + " version "
        + version.version();
  }
}
