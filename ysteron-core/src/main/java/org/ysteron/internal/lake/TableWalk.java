package org.ysteron.internal.lake;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageSet;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeWalk;

/**
 * Goes through all that a table, as the newest state lists it, refers to: every version that is
 * kept, each page once. For one thread.
 */
public final class TableWalk {
  private final PageStore pages;
  private final Visitor visitor;
  private final PageSet seen = new PageSet();
  private final TreeWalk<FileEntry, FileSummary> files;

  /** Is told what there is. */
  public interface Visitor {
    /**
     * A page, which is not read yet.
     *
     * @return whether to read it and go on to what hangs on it
     */
    boolean page(PageRef ref);

    /** Data files, of a page that was read. */
    default void files(List<FileEntry> entries) {}

    /** A page that was entered and on which nothing hangs. */
    default void plain(PageRef ref) {}

    /** A version whose pages come next; the newest one first. */
    default void version(VersionPage version) {}

    /** A version that the newest one has superseded. */
    default void record(HistoryRecord record) {}

    /** Goes on where a page cannot be read; empty for an exception then. */
    default Optional<TreeWalk.Inspection> inspection() {
      return Optional.empty();
    }
  }

  /** Has gone nowhere yet. */
  public TableWalk(PageStore pages, Visitor visitor) {
    this.pages = pages;
    this.visitor = visitor;
    this.files =
        new TreeWalk<>(
            pages,
            FileFormat.INSTANCE,
            visitor::page,
            entries -> {
              visitor.files(entries);
              entries.forEach(entry -> FileFormat.INSTANCE.references(entry).forEach(this::plain));
            },
            visitor.inspection());
  }

  /** Goes through a table. */
  public void through(TableListing listing) {
    version(listing.page());
    if (enter(listing.head())) {
      reading(
          listing.head(),
          () -> {
            TableHead head = TableHead.read(listing.head(), pages);
            small(head.historyTree(pages), this::superseded);
            small(head.writerTree(pages), writer -> {});
          });
    }
  }

  /** Goes through one version. */
  public void throughVersion(PageRef page) {
    version(page);
  }

  private void superseded(HistoryRecord record) {
    visitor.record(record);
    record.page().ifPresent(this::version);
  }

  private void plain(PageRef ref) {
    if (enter(ref)) {
      visitor.plain(ref);
    }
  }

  private void reading(PageRef ref, Runnable read) {
    try {
      read.run();
    } catch (DamagedException | ExpiredException e) {
      visitor.inspection().orElseThrow(() -> e).unreadable(ref, e);
    }
  }

  private boolean enter(PageRef ref) {
    return seen.add(ref) && visitor.page(ref);
  }

  private void version(PageRef ref) {
    if (enter(ref)) {
      reading(
          ref,
          () -> {
            VersionPage page = VersionPage.read(ref, pages);
            visitor.version(page);
            page.plainPages().forEach(this::plain);
            page.olderForms(pages).forEach(tree -> small(tree, form -> {}));
            files.through(page.files());
          });
    }
  }

  private <V, S> void small(PageTree<V, S> tree, Consumer<V> values) {
    new TreeWalk<>(
            pages, tree.format(), this::enter, found -> found.forEach(values), visitor.inspection())
        .through(tree.root());
  }
}
