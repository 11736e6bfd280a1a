package org.ysteron.internal.lake;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
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
  private final Set<PageRef> seen = new HashSet<>();
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
              entries.forEach(entry -> FileFormat.INSTANCE.references(entry).forEach(this::enter));
            });
  }

  /** Goes through a table. */
  public void through(TableListing listing) {
    version(listing.page());
    if (enter(listing.head())) {
      TableHead head = TableHead.read(listing.head(), pages);
      small(head.historyTree(pages), record -> record.page().ifPresent(this::version));
      small(head.writerTree(pages), writer -> {});
    }
  }

  private boolean enter(PageRef ref) {
    return seen.add(ref) && visitor.page(ref);
  }

  private void version(PageRef ref) {
    if (enter(ref)) {
      VersionPage page = VersionPage.read(ref, pages);
      page.plainPages().forEach(this::enter);
      page.olderForms(pages).forEach(tree -> small(tree, form -> {}));
      files.through(page.files());
    }
  }

  private <V, S> void small(PageTree<V, S> tree, Consumer<V> values) {
    new TreeWalk<>(pages, tree.format(), this::enter, found -> found.forEach(values))
        .through(tree.root());
  }
}
