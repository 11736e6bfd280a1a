package org.ysteron.internal.tree;

import java.util.ArrayDeque;
import java.util.Arrays;
import java.util.Deque;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Predicate;

/**
 * The entries that differ between two trees, in the order of their keys. It keeps two frontiers of
 * subtrees and opens only what differs: subtrees with the same reference are dropped from both
 * unread. For one thread.
 */
public final class TreeDiff<V, S> {
  private final PageTree<V, S> before;
  private final PageTree<V, S> after;
  private final Predicate<S> below;
  private final Deque<Item<V, S>> left = new ArrayDeque<>();
  private final Deque<Item<V, S>> right = new ArrayDeque<>();

  /** One change: the value before, the value after; one of them may be empty. */
  @SuppressWarnings("ArrayRecordComponent") // keys are never written to
  public record Change<V>(byte[] key, Optional<V> before, Optional<V> after) {}

  /** A subtree (a reference, its height) or one entry of a leaf. */
  @SuppressWarnings("ArrayRecordComponent")
  private record Item<V, S>(
      byte[] key, PageRef ref, int height, long count, Node<V, S> leaf, int position) {
    boolean isEntry() {
      return leaf != null;
    }
  }

  /**
   * A difference.
   *
   * @param below whether entries below a node of this summary matter; each tree is tested by itself
   */
  TreeDiff(PageTree<V, S> before, PageTree<V, S> after, Predicate<S> below) {
    this.before = before;
    this.after = after;
    this.below = below;
    start(before, left);
    start(after, right);
  }

  private static <V, S> void start(PageTree<V, S> tree, Deque<Item<V, S>> items) {
    PageTree.Root root = tree.root();
    if (root.ref() != null) {
      items.push(new Item<>(new byte[0], root.ref(), root.height(), root.count(), null, 0));
    }
  }

  /** The next change; empty when there is none. */
  public Optional<Change<V>> next() {
    while (!left.isEmpty() || !right.isEmpty()) {
      Item<V, S> a = left.peek();
      Item<V, S> b = right.peek();
      if (a == null) {
        if (b.isEntry()) {
          right.pop();
          return Optional.of(new Change<>(b.key, Optional.empty(), value(b)));
        }
        open(after, right);
      } else if (b == null) {
        if (a.isEntry()) {
          left.pop();
          return Optional.of(new Change<>(a.key, value(a), Optional.empty()));
        }
        open(before, left);
      } else if (!a.isEntry() && !b.isEntry()) {
        if (a.ref.sameContent(b.ref)) {
          left.pop();
          right.pop();
        } else {
          openOneOrBoth(a, b);
        }
      } else if (!a.isEntry()) {
        if (Arrays.compareUnsigned(b.key, a.key) < 0) {
          right.pop();
          return Optional.of(new Change<>(b.key, Optional.empty(), value(b)));
        }
        open(before, left);
      } else if (!b.isEntry()) {
        if (Arrays.compareUnsigned(a.key, b.key) < 0) {
          left.pop();
          return Optional.of(new Change<>(a.key, value(a), Optional.empty()));
        }
        open(after, right);
      } else {
        Optional<Change<V>> change = compare(a, b);
        if (change.isPresent()) {
          return change;
        }
      }
    }
    return Optional.empty();
  }

  private void openOneOrBoth(Item<V, S> a, Item<V, S> b) {
    int order = Arrays.compareUnsigned(a.key, b.key);
    boolean openLeft = a.height > b.height || (a.height == b.height && order <= 0);
    boolean openRight = b.height > a.height || (a.height == b.height && order >= 0);
    if (openLeft) {
      open(before, left);
    }
    if (openRight) {
      open(after, right);
    }
  }

  /** Hands over all changes that are left. */
  public void each(Consumer<Change<V>> taker) {
    for (Optional<Change<V>> change = next(); change.isPresent(); change = next()) {
      taker.accept(change.get());
    }
  }

  private Optional<Change<V>> compare(Item<V, S> a, Item<V, S> b) {
    int order = Arrays.compareUnsigned(a.key, b.key);
    if (order < 0) {
      left.pop();
      return Optional.of(new Change<>(a.key, value(a), Optional.empty()));
    }
    if (order > 0) {
      right.pop();
      return Optional.of(new Change<>(b.key, Optional.empty(), value(b)));
    }
    left.pop();
    right.pop();
    Optional<V> old = value(a);
    Optional<V> now = value(b);
    return old.equals(now) ? Optional.empty() : Optional.of(new Change<>(a.key, old, now));
  }

  private Optional<V> value(Item<V, S> item) {
    return Optional.of(item.leaf.values.get(item.position));
  }

  private void open(PageTree<V, S> tree, Deque<Item<V, S>> items) {
    Item<V, S> item = items.pop();
    Node<V, S> node = tree.node(item.ref, item.height, item.count, item.height > 0);
    for (int i = node.size - 1; i >= 0; i--) {
      if (node.leaf) {
        items.push(new Item<>(node.key(i), null, 0, 1, node, i));
      } else if (below.test(node.summaries.get(i))) {
        items.push(
            new Item<>(node.key(i), node.children[i], item.height - 1, node.counts[i], null, 0));
      }
    }
  }
}
