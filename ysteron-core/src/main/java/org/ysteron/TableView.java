package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.ysteron.commit.LakeCore;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.keys.Doubles;
import org.ysteron.read.ReadContext;
import org.ysteron.table.FileEntry;
import org.ysteron.table.HistoryRecord;
import org.ysteron.table.Layout;
import org.ysteron.table.TableForm;
import org.ysteron.table.TableHistory;
import org.ysteron.table.TableListing;
import org.ysteron.table.TableSettings;
import org.ysteron.table.VersionPage;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.TreeCursor;

/** One version of a table. Immutable, thread-safe. */
public final class TableView {
  private final LakeCore core;
  private final VersionPage page;

  TableView(LakeCore core, VersionPage page) {
    this.core = core;
    this.page = page;
  }

  static TableView of(LakeCore core, PageRef ref) {
    return new TableView(core, VersionPage.read(ref, core.pages()));
  }

  /** The table's name then. */
  public String name() {
    return page.name();
  }

  public long version() {
    return page.version();
  }

  /** The columns then. */
  public Schema schema() {
    return page.schema();
  }

  public TableSettings settings() {
    return page.settings();
  }

  /** This version's own record: when, by whom, what, totals. */
  public HistoryRecord record() {
    return page.record();
  }

  /** This version and those before it, the newest first, at most so many. */
  public List<HistoryRecord> history(int limit) {
    Lake.checkNotNegative(limit, "limit");
    TableListing newest =
        core.newestSeen()
            .page()
            .table(page.id(), core.pages())
            .orElseThrow(
                () ->
                    new DamagedException(
                        "The lake in %s does not list table %s (%s), whose version %d it refers to. Restore it from a copy of the lake."
                            .formatted(
                                core.store().location(), page.name(), page.id(), page.version())));
    return TableHistory.of(newest, core.pages()).records(page.version(), limit);
  }

  /** All data files. */
  public List<FileEntry> files() {
    return files(Integer.MAX_VALUE);
  }

  /** The first data files, at most so many. */
  public List<FileEntry> files(int limit) {
    List<FileEntry> files = new ArrayList<>();
    TreeCursor<FileEntry, ?> cursor = page.fileTree(core.pages()).cursor();
    while (files.size() < limit && cursor.next()) {
      files.add(cursor.value());
    }
    return files;
  }

  /** The name of a data file in the store. */
  public String objectName(FileEntry file) {
    return file.objectName(page.id());
  }

  /**
   * This version's rows by the columns of another version, such as the newest: what that has
   * dropped is not there, what it has added has its default, and what it has renamed or widened is
   * so.
   */
  public TableView bySchemaOf(TableView other) {
    return new TableView(core, page.readBy(other.page));
  }

  /** The columns, the constraints and the layout then. */
  public TableForm form() {
    return page.form();
  }

  /** All layouts that the table has or had, by their versions. */
  public Map<Long, Layout> layouts() {
    return page.layouts(core.pages());
  }

  /** How many files there are of a layout. */
  public long filesOfLayout(long layout) {
    return page.filesOfLayout(layout, core.pages());
  }

  /** The partition that a file is in, for people: {@code 2026-03, 4 of 16}; empty for none. */
  public String partition(FileEntry file) {
    return page.partition(file, core.pages());
  }

  /**
   * Rows that share their primary key with another one, which can be where not every write tests
   * keys.
   *
   * @param most so many keys at most
   */
  public List<Doubles.Sharer> doubles(int most) {
    return Doubles.of(ReadContext.of(core), page, most);
  }

  /** Starts a scan. */
  public Scan scan() {
    return new Scan(ReadContext.of(core), page);
  }
}
