package org.ysteron;

import java.time.Instant;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.TableHistory;
import org.ysteron.internal.table.VersionPage;

/** Finds versions of a table, or says why there is none. */
final class Versions {
  private Versions() {}

  static HistoryRecord byNumber(TableHistory history, long version) {
    VersionPage newest = history.newest();
    return history
        .recordOf(version)
        .orElseThrow(
            () ->
                history.hasExpired(version)
                    ? new ExpiredException(
                        "Version %d of table %s has expired; the oldest that is kept is %d."
                            .formatted(version, newest.name(), history.oldest().version()))
                    : new NotFoundException(
                        "Table %s has no version %d: its versions are 0 to %d."
                            .formatted(newest.name(), version, newest.version())));
  }

  static HistoryRecord byTime(TableHistory history, Instant time) {
    return history
        .recordAt(time)
        .orElseThrow(
            () ->
                new NotFoundException(
                    "At %s table %s did not exist: its first version, %d, is of %s."
                        .formatted(
                            time,
                            history.newest().name(),
                            history.oldest().version(),
                            history.oldest().commit().time())));
  }
}
