package org.ysteron.internal.read;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.data.Schema;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;

/**
 * Finds the data files that may hold rows that pass, one after the other, reading only those pages
 * of the file tree that ranges do not rule out. For one thread.
 */
public final class ScanPlan implements Source<ScanPlan.Task> {
  private final VersionPage table;
  private final Filter filter;
  private final TreeCursor<FileEntry, FileSummary> cursor;

  /**
   * One file to read.
   *
   * @param table the version it is of
   * @param entry what the table knows of it
   * @param filtered whether rows of it may not pass, so that each is to be tested
   */
  public record Task(VersionPage table, FileEntry entry, boolean filtered) {
    /** How to open it. */
    public DataFile file() {
      return fileOf(table.id(), entry);
    }
  }

  /** How to open a file of a table. */
  public static DataFile fileOf(UUID table, FileEntry entry) {
    return new DataFile(
        entry.objectName(table),
        entry.size(),
        entry.rows(),
        entry.numbers().footerLength(),
        entry.footerHash(),
        entry.fieldIds());
  }

  /** Plans a scan of a version. */
  public ScanPlan(VersionPage table, Filter filter, ReadContext context) {
    PageStore pages = context.pages();
    this.table = table;
    this.filter = filter;
    TreeCursor<FileEntry, FileSummary> files =
        filter.isTrivial() ? table.fileTree(pages).cursor() : table.files(filter, pages);
    this.cursor = files.ahead(context.workers());
  }

  @Override
  public Optional<Task> next() {
    if (!cursor.next()) {
      return Optional.empty();
    }
    FileEntry entry = cursor.value();
    boolean filtered = !filter.isTrivial() && filter.test(entry) != Verdict.ALL;
    return Optional.of(new Task(table, entry, filtered));
  }

  @Override
  public void close() {}

  Schema schema() {
    return table.schema();
  }

  /** Subtrees skipped so far. */
  public long skippedSubtrees() {
    return cursor.skippedSubtrees();
  }

  /** Files in skipped subtrees. */
  public long skippedBelow() {
    return cursor.skippedBelow();
  }

  /** Files skipped by their own ranges. */
  public long skippedFiles() {
    return cursor.skippedEntries();
  }
}
