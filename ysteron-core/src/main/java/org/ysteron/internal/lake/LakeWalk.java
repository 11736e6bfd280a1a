package org.ysteron.internal.lake;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageSet;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeFormat;
import org.ysteron.internal.tree.TreeWalk;

/**
 * Goes through all pages of the lake's own that a lake page needs: itself, its trees, and the names
 * of the entries that are remembered; each page once. For one thread.
 */
public final class LakeWalk {
  private final PageStore pages;
  private final Visitor visitor;
  private final PageSet seen = new PageSet();

  /** Is told what there is. */
  public interface Visitor {
    /**
     * A page, which is not read yet.
     *
     * @return whether to read it and go on to what hangs on it
     */
    boolean page(PageRef ref);

    /** A table, dropped or not. */
    default void table(TableListing table) {}

    /** An entry that is remembered. */
    default void entry(EntryRecord entry) {}

    /** Something that keeps versions. */
    default void hold(HoldRecord hold) {}

    /** Up to where a reader has read. */
    default void position(PositionRecord position) {}

    /** An object that nothing needs. */
    default void free(FreeObject object) {}

    /** Goes on where a page cannot be read; empty for an exception then. */
    default Optional<TreeWalk.Inspection> inspection() {
      return Optional.empty();
    }
  }

  /** Has gone nowhere yet. */
  public LakeWalk(PageStore pages, Visitor visitor) {
    this.pages = pages;
    this.visitor = visitor;
  }

  /**
   * Goes through a lake page.
   *
   * @param self where it is
   */
  public void through(LakePage page, PageRef self) {
    enter(self);
    walk(TableListing.NameFormat.INSTANCE, page.names(), named -> {});
    walk(TableListing.Format.INSTANCE, page.tables(), visitor::table);
    walk(FreeObject.Format.INSTANCE, page.upkeep().free(), visitor::free);
    walk(HoldRecord.Format.INSTANCE, page.upkeep().holds(), visitor::hold);
    walk(PositionRecord.Format.INSTANCE, page.upkeep().positions(), visitor::position);
    walk(ErasureRecord.Format.INSTANCE, page.upkeep().erasures(), erasure -> {});
    walk(EntryRecord.Format.INSTANCE, page.entries(), this::remembered);
  }

  private void remembered(EntryRecord entry) {
    visitor.entry(entry);
    if (enter(entry.page())) {
      try {
        PageTree.Root then = LakePage.read(entry.page(), pages).names();
        walk(TableListing.NameFormat.INSTANCE, then, named -> {});
      } catch (DamagedException | ExpiredException e) {
        visitor.inspection().orElseThrow(() -> e).unreadable(entry.page(), e);
      }
    }
  }

  private boolean enter(PageRef ref) {
    return seen.add(ref) && visitor.page(ref);
  }

  private <V, S> void walk(TreeFormat<V, S> format, PageTree.Root root, Consumer<V> values) {
    new TreeWalk<V, S>(
            pages,
            format,
            this::enter,
            (List<V> found) -> found.forEach(values),
            visitor.inspection())
        .through(root);
  }
}
