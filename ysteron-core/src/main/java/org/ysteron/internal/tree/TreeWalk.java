package org.ysteron.internal.tree;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Predicate;

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
  private final Set<PageRef> seen = new HashSet<>();

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
    this.pages = pages;
    this.format = format;
    this.enters = enters;
    this.values = values;
  }

  /** Goes through a tree, but for the pages that were seen before. */
  public void through(PageTree.Root root) {
    if (root.ref() != null) {
      PageTree<V, S> tree = new PageTree<>(pages, format, root);
      through(tree, root.ref(), root.height(), root.count());
    }
  }

  private void through(PageTree<V, S> tree, PageRef ref, int height, long count) {
    if (!seen.add(ref) || !enters.test(ref)) {
      return;
    }
    Node<V, S> node = tree.node(ref, height, count, false);
    if (node.leaf) {
      values.accept(node.values);
      return;
    }
    for (int i = 0; i < node.size; i++) {
      through(tree, node.children[i], height - 1, node.counts[i]);
    }
  }
}
