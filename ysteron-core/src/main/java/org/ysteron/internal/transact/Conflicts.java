package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.error.ConflictException;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;

/** Says what a transaction met: which table, which versions, who did what. */
final class Conflicts {
  private static final int MOST_NAMED = 3;

  private final VersionPage start;
  private final TableListing now;
  private final PageStore pages;

  Conflicts(VersionPage start, TableListing now, PageStore pages) {
    this.start = start;
    this.now = now;
    this.pages = pages;
  }

  ConflictException ofRewind() {
    return conflict(ConflictException.Kind.REWOUND, "was rewound to an earlier version.");
  }

  ConflictException of(ReplayCollision collision) {
    return conflict(
        ConflictException.Kind.SCHEMA_CHANGED,
        "was altered: another commit " + collision.getMessage());
  }

  ConflictException ofProof(String against) {
    return conflict(
        ConflictException.Kind.CONSTRAINT,
        "was altered, and rows that were added at the same time do not fit. " + against);
  }

  ConflictException ofKeys(String found) {
    return conflict(
        ConflictException.Kind.DUPLICATE_KEY,
        "got rows with the same keys as rows of this transaction. " + found);
  }

  ConflictException ofRead(Read read, FileEntry file, String what) {
    return conflict(
        ConflictException.Kind.READ_WRITE,
        "got a new or changed data file %d, %s (%s)"
            .formatted(file.numbers().number(), what, read.filter()));
  }

  ConflictException ofRows(FileEntry file) {
    return conflict(
        ConflictException.Kind.WRITE_WRITE,
        "changed or removed rows of data file %d that this transaction changes as well"
            .formatted(file.numbers().number()));
  }

  private ConflictException conflict(ConflictException.Kind kind, String what) {
    return new ConflictException(
        kind,
        start.name(),
        start.version(),
        now.version(),
        "Table %s, version %d when this transaction started and now %d, %s Meanwhile %s. Nothing was changed; run it again on the newest version."
            .formatted(
                start.name(),
                start.version(),
                now.version(),
                what.endsWith(".") ? what : what + ".",
                who()));
  }

  private String who() {
    TableHistory history = TableHistory.of(now, pages);
    List<String> versions = new ArrayList<>();
    for (long v = start.version() + 1; v <= now.version() && versions.size() < MOST_NAMED; v++) {
      history.recordOf(v).map(Conflicts::who).ifPresent(versions::add);
    }
    long more = now.version() - start.version() - versions.size();
    return String.join("; ", versions) + (more > 0 ? "; and %d more".formatted(more) : "");
  }

  private static String who(HistoryRecord record) {
    return "version %d: %s by %s"
        .formatted(record.version(), record.operation(), record.commit().who());
  }
}
