package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.List;
import java.util.function.BiConsumer;

/**
 * Looks some keys up in trees that share pages, no page twice. For one thread.
 *
 * @param <V> values
 * @param <S> summaries
 */
public final class TreeProbe<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final List<byte[]> keys;
  private final BiConsumer<Integer, V> found;
  private final PageSet seen = new PageSet();

  /**
   * Has looked nowhere yet.
   *
   * @param keys ascending, none twice
   * @param found is told which key was found and its value; of one key perhaps several
   */
  public TreeProbe(
      PageStore pages, TreeFormat<V, S> format, List<byte[]> keys, BiConsumer<Integer, V> found) {
    this.pages = pages;
    this.format = format;
    this.keys = keys;
    this.found = found;
  }

  /** Looks all keys up in a tree, but for the pages that were seen before. */
  public void in(PageTree.Root root) {
    if (root.ref() != null && !keys.isEmpty()) {
      PageTree<V, S> tree = new PageTree<>(pages, format, root);
      in(tree, root.ref(), root.height(), root.count(), 0, keys.size());
    }
  }

  /** Below a page that is in several trees the same keys are looked for, its parents sharing it. */
  private void in(PageTree<V, S> tree, PageRef ref, int height, long count, int from, int to) {
    if (!seen.add(ref)) {
      return;
    }
    Node<V, S> node = tree.node(ref, height, count, true);
    int at = from;
    for (int i = 0; i < node.size && at < to; i++) {
      int end = node.leaf ? at : node.endBelow(i, keys, at, to);
      if (node.leaf) {
        while (end < to && Arrays.compareUnsigned(keys.get(end), node.key(i)) < 0) {
          end++;
        }
        if (end < to && Arrays.equals(keys.get(end), node.key(i))) {
          found.accept(end, node.values.get(i));
        }
      } else if (end > at) {
        in(tree, node.children[i], height - 1, node.counts[i], at, end);
      }
      at = end;
    }
  }
}
