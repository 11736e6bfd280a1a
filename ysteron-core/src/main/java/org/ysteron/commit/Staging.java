package org.ysteron.commit;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
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
  private final Set<String> mustRead;
  private final Set<String> mustWrite;
  private LakePage page;

  /** Row masks in file entries: who does not know them would read rows that do not count. */
  public static final String ROW_MASKS = "row masks";

  /** The hidden column of serials, which whoever moves rows must keep. */
  public static final String ROW_SERIALS = "row serials";

  /** Named writers, whose sessions whoever writes in their name must respect. */
  public static final String NAMED_WRITERS = "named writers";

  /** Schemas that have changed: who does not know them would read files by the wrong columns. */
  public static final String EVOLUTION = "altered schemas";

  /** Layouts, which whoever writes must keep to; and the parts of files in their entries. */
  public static final String LAYOUTS = "layouts";

  Staging(LakeState base, PageStore pages, CommitStamp commit) {
    this.base = base;
    this.pages = pages;
    this.commit = commit;
    this.page = base.page();
    this.mustRead = new TreeSet<>(base.mustRead());
    this.mustWrite = new TreeSet<>(base.mustWrite());
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
  public TablePage next(TableListing listing, String operation) {
    return TablePage.read(listing.page(), pages)
        .next(listing.page(), pages, batch, commit, operation);
  }

  /** Says that readers of the lake must know a feature from this commit on; writers, too. */
  public void readersMustKnow(String feature) {
    mustRead.add(feature);
    mustWrite.add(feature);
  }

  /** Says that writers to the lake must know a feature from this commit on. */
  public void writersMustKnow(String feature) {
    mustWrite.add(feature);
  }

  List<String> mustRead() {
    return List.copyOf(mustRead);
  }

  List<String> mustWrite() {
    return List.copyOf(mustWrite);
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
