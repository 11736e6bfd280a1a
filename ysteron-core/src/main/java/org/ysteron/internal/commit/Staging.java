package org.ysteron.internal.commit;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.CommitStamp;

/**
 * The state that an entry's commits start from and the new pages that they make of it, a batch for
 * each table. The lake's own pages are made last, when it is known where those of the tables will
 * lie. For one thread.
 */
public final class Staging {
  private final LakeState base;
  private final PageStore pages;
  private final Map<UUID, PageBatch> batches = new LinkedHashMap<>();
  private final Map<UUID, TableListing> changed = new LinkedHashMap<>();
  private final List<EntryHead.CommitLines> commits = new ArrayList<>();
  private final List<EntryHead.TableLine> lines = new ArrayList<>();
  private final List<LakeEdit> edits = new ArrayList<>();
  private final Set<String> mustRead = new TreeSet<>();
  private final Set<String> mustWrite = new TreeSet<>();
  private CommitStamp commit;

  /**
   * Changes the lake page itself, once its tables and the entry before it are in it. It may be
   * called several times, for the page as it was then.
   */
  @FunctionalInterface
  public interface LakeEdit {
    LakePage apply(LakePage page, PageBatch batch);
  }

  Staging(LakeState base, PageStore pages) {
    this.base = base;
    this.pages = pages;
  }

  /** The state that the first commit stands on. */
  public LakeState base() {
    return base;
  }

  public PageStore pages() {
    return pages;
  }

  /** The new pages of a table. */
  public PageBatch batch(UUID table) {
    return batches.computeIfAbsent(table, id -> new PageBatch());
  }

  /** Starts a commit of the entry. */
  void begin(CommitStamp stamp) {
    commit = stamp;
    lines.clear();
  }

  /** Ends a commit of the entry. */
  void end(CommitNote note) {
    commits.add(new EntryHead.CommitLines(commit, note.labels(), lines));
  }

  List<EntryHead.CommitLines> commits() {
    return commits;
  }

  /** The commit in the making. */
  public CommitStamp commit() {
    return commit;
  }

  /** The table of a name as of now, the entry's own changes included. */
  public Optional<TableListing> table(String name) {
    for (TableListing listing : changed.values()) {
      if (listing.name().equals(name) && !listing.dropped()) {
        return Optional.of(listing);
      }
    }
    return base.page().table(name, pages).filter(listing -> !changed.containsKey(listing.id()));
  }

  /** The table of an id as of now, dropped or not. */
  public Optional<TableListing> table(UUID id) {
    TableListing own = changed.get(id);
    return own != null ? Optional.of(own) : base.page().table(id, pages);
  }

  /** The next version of a table, to be filled and handed to {@link #put}. */
  public VersionPage next(TableListing listing, String operation) {
    return VersionPage.read(listing.page(), pages).next(commit, operation);
  }

  /** Puts a table's new version in its place. */
  public void put(VersionPage table, TableNumbers numbers, boolean dropped) {
    put(table, numbers, dropped, Optional.empty());
  }

  /**
   * Puts a table's new version in its place.
   *
   * @param numbers what the table gives out next
   * @param step what a named writer has done with it
   */
  public void put(
      VersionPage table, TableNumbers numbers, boolean dropped, Optional<WriterRecord> step) {
    HistoryRecord record = table.record();
    PageBatch batch = batch(table.id());
    if (table.form().usesExpressions()) {
      mustWrite.add(LakeFeature.EXPRESSIONS.word());
    }
    PageRef page = table.write(batch);
    changed.put(
        table.id(),
        TableListing.next(table(table.id()), table, numbers, dropped, page, step, pages, batch));
    lines.add(
        new EntryHead.TableLine(
            table.name(), table.id(), table.version(), record.operation(), record.counts()));
  }

  /**
   * Changes the lake page itself.
   *
   * @param feature what whoever writes to such a lake must know
   */
  public void edit(LakeFeature feature, LakeEdit edit) {
    mustWrite.add(feature.word());
    if (feature.isForReaders()) {
      mustRead.add(feature.word());
    }
    edits.add(edit);
  }

  /** Puts the same version of a table, whose pages are elsewhere or whose past is shorter. */
  public void replace(TableListing listing) {
    changed.put(listing.id(), listing);
  }

  /** Puts a new version of a table, whose head was made of what is left of the one before. */
  public void replace(TableListing listing, VersionPage made) {
    replace(listing);
    HistoryRecord record = made.record();
    lines.add(
        new EntryHead.TableLine(
            listing.name(), made.id(), made.version(), record.operation(), record.counts()));
  }

  /** Features that a reader must know, those of the base among them. */
  List<String> mustRead() {
    return united(base.mustRead(), mustRead);
  }

  /** Features that a writer must know. */
  List<String> mustWrite() {
    return united(base.mustWrite(), mustWrite);
  }

  private static List<String> united(List<String> before, Set<String> more) {
    List<String> all = new ArrayList<>(before);
    more.stream().filter(word -> !before.contains(word)).forEach(all::add);
    return List.copyOf(all);
  }

  /** Tables whose listing is new, by id. */
  Collection<TableListing> changedTables() {
    return changed.values();
  }

  /** The new pages of the tables. */
  List<Map.Entry<UUID, PageBatch>> tableBatches() {
    return List.copyOf(batches.entrySet());
  }

  /** The lake page after the last commit, whose own new pages go into a batch. */
  LakePage page(PageBatch batch) {
    LakePage page =
        base.page()
            .withTables(changed.values(), pages, batch)
            .withEntry(base.entry(), pages, batch);
    for (LakeEdit edit : edits) {
      page = edit.apply(page, batch);
    }
    return page;
  }
}
