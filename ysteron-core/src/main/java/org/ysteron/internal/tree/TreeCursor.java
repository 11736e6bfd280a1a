package org.ysteron.internal.tree;

import java.util.ArrayDeque;
import java.util.Arrays;
import java.util.Deque;
import java.util.function.Predicate;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.work.Workers;

/**
 * Reads the entries of a tree in the order of their keys, and counts what it could skip. For one
 * thread.
 *
 * <pre>{@code
 * while (cursor.next()) {
 *   use(cursor.value());
 * }
 * }</pre>
 */
public final class TreeCursor<V, S> {
  private PageTree<V, S> tree;
  private final Predicate<S> below;
  private final PageTree.EntryTest<V> entry;
  private final Deque<ChildRuns<V, S>> stack = new ArrayDeque<>();
  private final ChildRuns.Pace pace = new ChildRuns.Pace();
  private byte[] from;
  private byte[] behind;
  private Node<V, S> leaf;
  private int position = -1;
  private long skippedSubtrees;
  private long skippedBelow;
  private long skippedEntries;

  TreeCursor(PageTree<V, S> tree, Predicate<S> below, PageTree.EntryTest<V> entry, byte[] from) {
    this.tree = tree;
    this.below = below;
    this.entry = entry;
    this.from = from;
    this.behind = from;
    try {
      enterRoot();
    } catch (ExpiredException e) {
      goElsewhere(e);
    }
  }

  private void enterRoot() {
    PageTree.Root root = tree.root();
    if (root.ref() != null) {
      enter(tree.node(root.ref(), root.height(), root.count(), root.height() > 0));
    }
  }

  /** Goes on behind the last key in a copy of the tree. */
  private void goElsewhere(ExpiredException gone) {
    tree = tree.copy().orElseThrow(() -> gone);
    stack.clear();
    leaf = null;
    from = behind;
    try {
      enterRoot();
    } catch (ExpiredException e) {
      goElsewhere(e);
    }
  }

  /** Has workers read and check pages ahead of where this is; to be said before it goes on. */
  public TreeCursor<V, S> ahead(Workers workers) {
    pace.setWorkers(workers);
    return this;
  }

  private void enter(Node<V, S> node) {
    int start = from.length == 0 ? 0 : Math.max(0, node.floor(from));
    if (node.leaf) {
      if (from.length > 0
          && start < node.size
          && java.util.Arrays.compareUnsigned(node.key(start), from) < 0) {
        start++;
      }
      from = new byte[0];
      leaf = node;
      position = start - 1;
    } else {
      int height = tree.root().height() - stack.size() - 1;
      stack.push(new ChildRuns<>(tree, node, height, start, below, pace));
    }
  }

  /** Goes to the next entry that passes; false behind the last one. */
  public boolean next() {
    while (true) {
      try {
        return goOn();
      } catch (ExpiredException e) {
        goElsewhere(e);
      }
    }
  }

  private boolean goOn() {
    while (true) {
      if (leaf != null) {
        while (++position < leaf.size) {
          if (entry.test(leaf.values, position)) {
            return true;
          }
          skippedEntries++;
        }
        byte[] last = leaf.key(leaf.size - 1);
        behind = Arrays.copyOf(last, last.length + 1); // the least key above it
        leaf = null;
      }
      ChildRuns<V, S> children = stack.peek();
      if (children == null) {
        return false;
      }
      Node<V, S> child = children.next();
      if (child != null) {
        enter(child);
      } else {
        skippedSubtrees += children.skipped();
        skippedBelow += children.skippedKeys();
        stack.pop();
      }
    }
  }

  public byte[] key() {
    return leaf.key(position);
  }

  public V value() {
    return leaf.values.get(position);
  }

  /** Subtrees that were skipped by their summaries, of nodes that were read to their end. */
  public long skippedSubtrees() {
    return skippedSubtrees;
  }

  /** Entries in those subtrees. */
  public long skippedBelow() {
    return skippedBelow;
  }

  /** Entries that were looked at and did not pass. */
  public long skippedEntries() {
    return skippedEntries;
  }
}
