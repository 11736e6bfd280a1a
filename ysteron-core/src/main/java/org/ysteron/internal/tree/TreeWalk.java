package org.ysteron.internal.tree;

import java.util.HashSet;
import java.util.List;
import java.util.Set;

/**
 * Goes through the pages of trees that share pages, each page once. For one thread.
 *
 * @param <V> values
 * @param <S> summaries
 */
public final class TreeWalk<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final Visitor<V> visitor;
  private final Set<PageRef> seen = new HashSet<>();

  /** Is told of pages. */
  public interface Visitor<V> {
    /**
     * A page; it is not read yet.
     *
     * @param height how high above the leaves
     * @return whether to read it and go on to what hangs on it
     */
    boolean page(PageRef ref, int height);

    /** The values of a leaf that was read. */
    void values(List<V> values);
  }

  /** Has gone nowhere yet. */
  public TreeWalk(PageStore pages, TreeFormat<V, S> format, Visitor<V> visitor) {
    this.pages = pages;
    this.format = format;
    this.visitor = visitor;
  }

  /** Goes through a tree, but for the pages that were seen before. */
  public void through(PageTree.Root root) {
    if (root.ref() != null) {
      PageTree<V, S> tree = new PageTree<>(pages, format, root);
      through(tree, root.ref(), root.height(), root.count());
    }
  }

  private void through(PageTree<V, S> tree, PageRef ref, int height, long count) {
    if (!seen.add(ref) || !visitor.page(ref, height)) {
      return;
    }
    Node<V, S> node = tree.node(ref, height, count, false);
    if (node.leaf) {
      visitor.values(node.values);
      return;
    }
    for (int i = 0; i < node.size; i++) {
      through(tree, node.children[i], height - 1, node.counts[i]);
    }
  }
}
