package org.ysteron.internal.remote;

import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.changes.FileChanges;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/** Deletes staged files that no kept version of their table has. */
public final class StagedDiscard {
  private final LakeCore core;
  private final StagedForm rows;

  public StagedDiscard(LakeCore core, StagedForm rows) {
    this.core = core;
    this.rows = rows;
  }

  /**
   * Deletes them.
   *
   * @throws InvalidInputException when a version has one of them
   */
  public void run() {
    Set<UUID> files = new HashSet<>();
    rows.files().forEach(file -> files.add(file.id()));
    Optional<TableListing> listing = core.refresh().page().table(rows.table(), core.pages());
    listing.ifPresent(table -> refuseAdded(table, files));
    core.store()
        .deleteAll(
            rows.files().stream()
                .map(file -> FileEntry.objectName(rows.table(), file.start(), file.id()))
                .toList());
  }

  /**
   * Looks at all files of the oldest version that may have them, and at what later ones brought.
   */
  private void refuseAdded(TableListing table, Set<UUID> files) {
    PageStore pages = core.pages();
    TableHistory history = TableHistory.of(table, pages);
    List<HistoryRecord> since =
        history.records(table.version(), Integer.MAX_VALUE).stream()
            .takeWhile(record -> record.commit().entry() > rows.start())
            .toList();
    if (since.isEmpty()) {
      return;
    }
    VersionPage before = history.pageOf(since.get(since.size() - 1));
    TreeCursor<FileEntry, FileSummary> cursor = before.fileTree(pages).cursor();
    while (cursor.next()) {
      refuse(cursor.value(), before, files);
    }
    for (int i = since.size() - 2; i >= 0; i--) {
      VersionPage page = history.pageOf(since.get(i));
      FileChanges.between(before, page, pages).came().forEach(file -> refuse(file, page, files));
      before = page;
    }
  }

  private static void refuse(FileEntry file, VersionPage of, Set<UUID> files) {
    if (files.contains(file.id())) {
      throw new InvalidInputException(
          "Version %d of table %s has these staged rows, as data file %d. Nothing was discarded; delete the rows instead."
              .formatted(of.version(), of.name(), file.numbers().number()));
    }
  }
}
