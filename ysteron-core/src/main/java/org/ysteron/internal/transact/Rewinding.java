package org.ysteron.internal.transact;

import java.util.Optional;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageBatch;

/**
 * Makes an earlier version of a table current again, as the first thing that a transaction does to
 * the table. Whatever was committed to the table since the transaction started is in its way, for
 * it would be taken back unseen.
 *
 * @param target the number of the earlier version
 * @param startVersion the table's version at the start
 */
record Rewinding(long target, long startVersion) {

  /** The earlier version, which must still be kept. */
  static VersionPage earlier(long target, TableHistory history) {
    Optional<HistoryRecord> record = history.recordOf(target);
    return history.pageOf(
        record.orElseThrow(
            () ->
                ExpiredException.ofVersion(
                    history.newest().name(),
                    target,
                    "Version %d of table %s, the target of the rewind, has expired. Nothing was changed."
                        .formatted(target, history.newest().name()),
                    null)));
  }

  /** Whether the table was at another version when this started. */
  boolean isMove() {
    return target != startVersion;
  }

  /**
   * Makes sure that the table is where it was when this started.
   *
   * @throws ConflictException when it is not
   */
  void checkStill(VersionPage now) {
    if (now.version() != startVersion) {
      throw new ConflictException(
          ConflictException.Kind.WRITE_WRITE,
          now.name(),
          startVersion,
          now.version(),
          "Table %s was at version %d when this rewind to version %d started, and is now at version %d, by %s. Nothing was changed; rewind again to remove that version as well."
              .formatted(
                  now.name(), startVersion, target, now.version(), now.record().commit().who()));
    }
  }

  /** The newest version as the transaction started from it: with what the earlier one had. */
  VersionPage started(Staging staging, TableListing listing, VersionPage now) {
    VersionPage earlier = earlier(staging, listing);
    return now.rewound(earlier, earlier.form(), staging.pages(), new PageBatch());
  }

  /** The next version. */
  VersionPage next(Staging staging, TableListing listing, String operation, TableForm form) {
    return staging
        .next(listing, operation)
        .rewound(earlier(staging, listing), form, staging.pages(), staging.batch(listing.id()));
  }

  private VersionPage earlier(Staging staging, TableListing listing) {
    return earlier(target, TableHistory.of(listing, staging.pages()));
  }
}
