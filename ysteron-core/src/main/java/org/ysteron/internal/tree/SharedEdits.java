package org.ysteron.internal.tree;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * Changes the values of some keys, or takes them out, in trees that share pages. A page that is in
 * several trees is made anew once, so that they share its successor; pages keep their keys, and are
 * neither split nor packed together. For one thread.
 *
 * @param <V> values
 * @param <S> summaries
 */
public final class SharedEdits<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final List<byte[]> keys;
  private final Function<V, Optional<V>> change;
  private final PageBatch batch;
  private final Map<PageRef, Optional<Node.Piece<S>>> made = new HashMap<>();
  private final Set<PageRef> same = new HashSet<>();

  /**
   * Has changed nothing yet.
   *
   * @param keys ascending, none twice
   * @param change what a value becomes, which is itself when it stays; empty to take it out
   */
  public SharedEdits(
      PageStore pages,
      TreeFormat<V, S> format,
      List<byte[]> keys,
      Function<V, Optional<V>> change,
      PageBatch batch) {
    this.pages = pages;
    this.format = format;
    this.keys = keys;
    this.change = change;
    this.batch = batch;
  }

  /** A tree with the changes; itself when it has none of the keys. */
  public PageTree.Root in(PageTree.Root root) {
    if (root.ref() == null || keys.isEmpty()) {
      return root;
    }
    PageTree<V, S> tree = new PageTree<>(pages, format, root);
    Node.Piece<S> before =
        new Node.Piece<>(new byte[0], root.ref(), root.count(), null, false); // of no parent
    return page(tree, before, root.height(), 0, keys.size())
        .map(piece -> new PageTree.Root(piece.ref(), root.height(), piece.count()))
        .orElse(PageTree.Root.EMPTY);
  }

  /** Below a page that is in several trees the same keys are meant, its parents sharing it. */
  private Optional<Node.Piece<S>> page(
      PageTree<V, S> tree, Node.Piece<S> before, int height, int from, int to) {
    Optional<Node.Piece<S>> known = made.get(before.ref());
    if (known != null) {
      return known;
    }
    if (same.contains(before.ref())) {
      return Optional.of(before);
    }
    Node<V, S> node = tree.node(before.ref(), height, before.count(), true);
    Optional<Node.Piece<S>> after =
        node.leaf ? leaf(before, node, from, to) : inner(tree, before, node, height, from, to);
    if (after.isPresent() && after.get().ref().equals(before.ref())) {
      same.add(before.ref());
    } else {
      made.put(before.ref(), after);
    }
    return after;
  }

  private Optional<Node.Piece<S>> leaf(Node.Piece<S> before, Node<V, S> node, int from, int to) {
    List<byte[]> kept = new ArrayList<>(node.size);
    List<V> values = new ArrayList<>(node.size);
    boolean isChanged = false;
    int at = from;
    for (int i = 0; i < node.size; i++) {
      while (at < to && Arrays.compareUnsigned(keys.get(at), node.key(i)) < 0) {
        at++;
      }
      V value = node.values.get(i);
      boolean isMeant = at < to && Arrays.equals(keys.get(at), node.key(i));
      Optional<V> after = isMeant ? change.apply(value) : Optional.of(value);
      isChanged |= isMeant && !after.equals(Optional.of(value));
      if (after.isPresent()) {
        kept.add(node.key(i));
        values.add(after.get());
      }
    }
    if (!isChanged) {
      return Optional.of(before);
    }
    return kept.isEmpty()
        ? Optional.empty()
        : Optional.of(Node.leaf(format, kept, format.together(values)).addTo(batch));
  }

  private Optional<Node.Piece<S>> inner(
      PageTree<V, S> tree, Node.Piece<S> before, Node<V, S> node, int height, int from, int to) {
    List<Node.Piece<S>> children = new ArrayList<>(node.size);
    boolean isChanged = false;
    int at = from;
    for (int i = 0; i < node.size; i++) {
      int end = node.endBelow(i, keys, at, to);
      Node.Piece<S> child = node.child(i);
      Optional<Node.Piece<S>> after =
          end > at ? page(tree, child, height - 1, at, end) : Optional.of(child);
      isChanged |= after.isEmpty() || !after.get().ref().equals(child.ref());
      after.ifPresent(children::add);
      at = end;
    }
    if (!isChanged) {
      return Optional.of(before);
    }
    return children.isEmpty()
        ? Optional.empty()
        : Optional.of(Node.inner(format, children).addTo(batch));
  }
}
