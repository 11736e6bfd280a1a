package org.ysteron.internal.tree;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Predicate;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Workers;

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
  private final PageSet seen = new PageSet();

  /** Goes on where a page cannot be read, and compares each with what its parent says of it. */
  public interface Inspection {
    /** A page that cannot be read, or that is gone. */
    void unreadable(PageRef page, RuntimeException why);

    /** A page that is other than what refers to it says. */
    void contradiction(PageRef page, String what);

    /** Whether all that parents say is compared, or what costs little. */
    boolean isClose();

    /** Who reads leaves ahead, and calls the others of these meanwhile. */
    Workers workers();
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

  private boolean enter(PageRef ref) {
    return seen.add(ref) && enters.test(ref);
  }

  private void through(PageTree<V, S> tree, Node.Piece<S> piece, int height) {
    if (!enter(piece.ref())) {
      return;
    }
    if (height == 0) {
      take(leaf(tree, piece));
      return;
    }
    Node<V, S> node;
    try {
      node = tree.node(piece.ref(), height, piece.count(), false);
      inspection.ifPresent(found -> inspect(node, List.of(), piece, found));
    } catch (DamagedException | ExpiredException e) {
      inspection.orElseThrow(() -> e).unreadable(piece.ref(), e);
      return;
    }
    if (height == 1 && inspection.isPresent()) {
      leaves(tree, node, inspection.get());
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

  /** The values of a leaf, or why it cannot be read. */
  private record Leaf<V>(PageRef ref, List<V> values, RuntimeException failure) {}

  /** Reads leaves ahead; their values are told in order, by this thread. */
  private void leaves(PageTree<V, S> tree, Node<V, S> parent, Inspection found) {
    try (Ahead<Leaf<V>> ahead = new Ahead<>(found.workers(), this::take)) {
      for (int i = 0; i < parent.size; i++) {
        Node.Piece<S> piece = parent.child(i);
        if (enter(piece.ref())) {
          ahead.add(() -> leaf(tree, piece));
        }
      }
      ahead.finish();
    }
  }

  private Leaf<V> leaf(PageTree<V, S> tree, Node.Piece<S> piece) {
    try {
      Node<V, S> node = tree.node(piece.ref(), 0, piece.count(), false);
      return new Leaf<>(piece.ref(), inspected(node, piece), null);
    } catch (DamagedException | ExpiredException e) {
      return new Leaf<>(piece.ref(), List.of(), e);
    }
  }

  /** A leaf's values, made once, for they are made anew each time that they are asked for. */
  private List<V> inspected(Node<V, S> leaf, Node.Piece<S> piece) {
    if (inspection.isEmpty()) {
      return leaf.values;
    }
    List<V> made = new ArrayList<>(leaf.values);
    inspect(leaf, made, piece, inspection.get());
    return made;
  }

  private void take(Leaf<V> leaf) {
    try {
      if (leaf.failure != null) {
        throw leaf.failure;
      }
      values.accept(leaf.values);
    } catch (DamagedException | ExpiredException e) {
      inspection.orElseThrow(() -> e).unreadable(leaf.ref, e);
    }
  }

  private void inspect(Node<V, S> node, List<V> found, Node.Piece<S> told, Inspection inspecting) {
    PageRef ref = told.ref();
    if (told.key() != null && !Arrays.equals(node.key(0), told.key())) {
      inspecting.contradiction(ref, "its first key differs from the one in its parent page");
    }
    Reach reach =
        node.leaf
            ? format.below(found, ref.home())
            : Reach.below(ref.home(), Arrays.asList(node.children));
    if (ref.below().entry() > reach.entry() || ref.below().start() > reach.start()) {
      inspecting.contradiction(
          ref,
          "it refers back to %s, which is before %s, the limit in its parent page"
              .formatted(reach, ref.below()));
    }
    if (told.summary() != null) {
      Optional<String> wrong =
          node.leaf
              ? format.contradiction(told.summary(), found, inspecting.isClose())
              : format.contradictionOf(told.summary(), node.summaries, inspecting.isClose());
      wrong.ifPresent(what -> inspecting.contradiction(ref, what));
    }
  }
}
