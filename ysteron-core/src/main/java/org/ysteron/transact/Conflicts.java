package org.ysteron.transact;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.error.ConflictException;
import org.ysteron.table.FileEntry;
import org.ysteron.table.HistoryRecord;
import org.ysteron.table.TableHistory;
import org.ysteron.table.TableListing;
import org.ysteron.table.VersionPage;
import org.ysteron.tree.PageStore;

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
    return conflict("was put back to an earlier version since.");
  }

  ConflictException of(Replay.Collision collision) {
    return conflict("was altered since: another commit " + collision.getMessage());
  }

  ConflictException ofProof(String against) {
    return conflict(
        "was altered since, so that rows that came at the same time do not fit. " + against);
  }

  ConflictException ofKeys(String found) {
    return conflict("got rows with keys that rows of this transaction have. " + found);
  }

  ConflictException ofRead(Read read, FileEntry file, String what) {
    return conflict(
        "got or changed data file %d, %s (%s)"
            .formatted(file.numbers().number(), what, read.filter()));
  }

  ConflictException ofRows(FileEntry file) {
    return conflict(
        "changed or removed rows of data file %d that this transaction changes, too"
            .formatted(file.numbers().number()));
  }

  private ConflictException conflict(String what) {
    return new ConflictException(
        "Table %s, version %d when this transaction started and now %d, %s Meanwhile %s. Nothing was changed; do it again on the newest version."
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
