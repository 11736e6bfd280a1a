package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Predicate;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;

/**
 * Goes through the pages of trees that share pages, each page once. For one thread.
 *
 * @param <V> values
 * @param <S> summaries
 */
public final class TreeWalk<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final Predicate<PageRef> enters;
  private final Consumer<List<V>> values;
  private final Optional<Inspection> inspection;
  private final Set<PageRef> seen = new HashSet<>();

  /** Goes on where a page cannot be read, and compares each with what its parent says of it. */
  public interface Inspection {
    /** A page that cannot be read, or that is gone. */
    void unreadable(PageRef page, RuntimeException why);

    /** A page that is other than what refers to it says. */
    void contradiction(PageRef page, String what);

    /** Whether all that parents say is compared, or what costs little. */
    boolean isClose();
  }

  /**
   * Has gone nowhere yet.
   *
   * @param enters is told a page that is not read yet; whether to read it and go on to what hangs
   *     on it
   * @param values is told the values of a leaf that was read
   */
  public TreeWalk(
      PageStore pages,
      TreeFormat<V, S> format,
      Predicate<PageRef> enters,
      Consumer<List<V>> values) {
    this(pages, format, enters, values, Optional.empty());
  }

  /** Has gone nowhere yet, and will inspect what it finds. */
  public TreeWalk(
      PageStore pages,
      TreeFormat<V, S> format,
      Predicate<PageRef> enters,
      Consumer<List<V>> values,
      Optional<Inspection> inspection) {
    this.pages = pages;
    this.format = format;
    this.enters = enters;
    this.values = values;
    this.inspection = inspection;
  }

  /** Goes through a tree, but for the pages that were seen before. */
  public void through(PageTree.Root root) {
    if (root.ref() != null) {
      through(
          new PageTree<>(pages, format, root),
          new Node.Piece<>(null, root.ref(), root.count(), null, false),
          root.height());
    }
  }

  private void through(PageTree<V, S> tree, Node.Piece<S> piece, int height) {
    PageRef ref = piece.ref();
    if (!seen.add(ref) || !enters.test(ref)) {
      return;
    }
    Node<V, S> node;
    try {
      node = tree.node(ref, height, piece.count(), false);
      if (inspection.isPresent()) {
        inspect(node, piece, inspection.get());
      }
      if (node.leaf) {
        values.accept(node.values);
        return;
      }
    } catch (DamagedException | ExpiredException e) {
      inspection.orElseThrow(() -> e).unreadable(ref, e);
      return;
    }
    for (int i = 0; i < node.size; i++) {
      Node.Piece<S> child =
          inspection.isPresent()
              ? node.child(i)
              : new Node.Piece<>(null, node.children[i], node.counts[i], null, false);
      through(tree, child, height - 1);
    }
  }

  private void inspect(Node<V, S> node, Node.Piece<S> told, Inspection found) {
    PageRef ref = told.ref();
    if (told.key() != null && !Arrays.equals(node.key(0), told.key())) {
      found.contradiction(ref, "its first key is another than the page above it says");
    }
    Reach reach =
        node.leaf
            ? format.below(node.values, ref.home())
            : Reach.below(ref.home(), Arrays.asList(node.children));
    if (ref.below().entry() > reach.entry() || ref.below().start() > reach.start()) {
      found.contradiction(
          ref, "it refers back to %s, further than is said of it, %s".formatted(reach, ref.below()));
    }
    if (told.summary() != null) {
      Optional<String> wrong =
          node.leaf
              ? format.contradiction(told.summary(), node.values, found.isClose())
              : format.contradictionOf(told.summary(), node.summaries, found.isClose());
      wrong.ifPresent(what -> found.contradiction(ref, what));
    }
  }
}
