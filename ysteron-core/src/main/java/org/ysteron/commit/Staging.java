package org.ysteron.commit;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.HistoryRecord;
import org.ysteron.table.LakePage;
import org.ysteron.table.TableListing;
import org.ysteron.table.TablePage;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;

/** The state that a commit starts from and the new pages that it makes of it. For one thread. */
public final class Staging {
  private final LakeState base;
  private final PageStore pages;
  private final CommitStamp commit;
  private final PageBatch batch = new PageBatch();
  private final List<EntryHead.TableLine> lines = new ArrayList<>();
  private LakePage page;

  Staging(LakeState base, PageStore pages, CommitStamp commit) {
    this.base = base;
    this.pages = pages;
    this.commit = commit;
    this.page = base.page();
  }

  /** The state that the commit will stand on. */
  public LakeState base() {
    return base;
  }

  public PageStore pages() {
    return pages;
  }

  public PageBatch batch() {
    return batch;
  }

  /** The commit in the making. */
  public CommitStamp commit() {
    return commit;
  }

  /** The table of a name as of now, this commit's own changes included. */
  public Optional<TableListing> table(String name) {
    return page.table(name, pages);
  }

  /** The table of an id as of now, dropped or not. */
  public Optional<TableListing> table(UUID id) {
    return page.table(id, pages);
  }

  /** All tables that are not dropped. */
  public List<TableListing> tables() {
    return page.tables(false, pages);
  }

  /** The next version of a table, to be filled and handed to {@link #put}. */
  public TablePage next(TableListing listing, String operation, HistoryRecord.Counts counts) {
    return TablePage.read(listing.page(), pages)
        .next(listing.page(), pages, batch, commit, operation, counts);
  }

  /** Puts a table's new page in its place. */
  public void put(TablePage table, boolean dropped) {
    HistoryRecord record = table.record();
    PageRef ref = table.write(batch);
    pages.keepMade(ref, table);
    page = page.withTable(table, dropped, ref, pages, batch);
    lines.add(
        new EntryHead.TableLine(
            table.name(), table.id(), table.version(), record.operation(), record.counts()));
  }

  List<EntryHead.TableLine> lines() {
    return lines;
  }

  LakePage page() {
    return page;
  }

  void setPage(LakePage newPage) {
    page = newPage;
  }
}
