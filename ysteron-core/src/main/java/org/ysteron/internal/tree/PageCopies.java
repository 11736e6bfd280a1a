package org.ysteron.internal.tree;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;

/**
 * Copies pages that lie too far back to where they may stay, each once, whatever number of trees it
 * is in. Leaves and pages that refer to no others may go into objects of their own, ahead of the
 * commit that will refer to them; the pages above them go into the commit's batch. For one thread.
 */
public final class PageCopies {
  private final PageStore pages;
  private final Predicate<PageRef> isOld;
  private final Map<PageRef, PageRef> ahead;
  private final Map<PageRef, PageRef> copied;
  private final PageBatch batch;
  private long bytes;

  /**
   * Copies into a batch.
   *
   * @param isOld whether a page, or one that hangs on it, has to be copied
   * @param ahead what was copied before, by what it was copied from
   */
  public PageCopies(
      PageStore pages, Predicate<PageRef> isOld, Map<PageRef, PageRef> ahead, PageBatch batch) {
    this(pages, isOld, ahead, batch, new HashMap<>());
  }

  /**
   * Copies into a batch.
   *
   * @param copied what is in the batch already, by what it was copied from; is added to
   */
  public PageCopies(
      PageStore pages,
      Predicate<PageRef> isOld,
      Map<PageRef, PageRef> ahead,
      PageBatch batch,
      Map<PageRef, PageRef> copied) {
    this.copied = copied;
    this.pages = pages;
    this.isOld = isOld;
    this.ahead = ahead;
    this.batch = batch;
  }

  /** Where the copies go. */
  public PageBatch batch() {
    return batch;
  }

  public PageStore pages() {
    return pages;
  }

  /** Whether a page, or one that hangs on it, has to be copied. */
  public boolean isOld(PageRef ref) {
    return isOld.test(ref);
  }

  /** How many bytes were copied. */
  public long bytes() {
    return bytes;
  }

  /** A page that refers to no others, or a copy of it. */
  public PageRef plain(PageRef ref) {
    return copy(ref, () -> batch.add(pages.read(ref)));
  }

  /** A page, or a copy of it that is made when there is none. */
  public PageRef copy(PageRef ref, Supplier<PageRef> maker) {
    if (!isOld(ref)) {
      return ref;
    }
    PageRef known = ahead.get(ref);
    if (known == null) {
      known = copied.get(ref);
    }
    if (known == null) {
      known = maker.get();
      bytes += known.length();
      copied.put(ref, known);
    }
    return known;
  }

  /**
   * A tree whose pages are copied where they have to be.
   *
   * @param inValue gives what the references in values become
   */
  public <V, S> PageTree.Root tree(
      TreeFormat<V, S> format, PageTree.Root root, UnaryOperator<PageRef> inValue) {
    if (root.ref() == null || !isOld(root.ref())) {
      return root;
    }
    PageTree<V, S> tree = new PageTree<>(pages, format, root);
    return new PageTree.Root(
        page(tree, root.ref(), root.height(), root.count(), inValue), root.height(), root.count());
  }

  /** Copies a leaf. */
  public <V, S> void leaf(
      TreeFormat<V, S> format, PageRef ref, long count, UnaryOperator<PageRef> inValue) {
    PageTree<V, S> tree = new PageTree<>(pages, format, new PageTree.Root(ref, 0, count));
    page(tree, ref, 0, count, inValue);
  }

  /** Visits leaves of a tree, without reading them. */
  public static <V, S> void eachLeaf(
      PageStore pages,
      TreeFormat<V, S> format,
      PageTree.Root root,
      Predicate<PageRef> enters,
      BiConsumer<PageRef, Long> visitor) {
    if (root.ref() != null) {
      PageTree<V, S> tree = new PageTree<>(pages, format, root);
      eachLeaf(tree, root.ref(), root.height(), root.count(), enters, visitor);
    }
  }

  private static <V, S> void eachLeaf(
      PageTree<V, S> tree,
      PageRef ref,
      int height,
      long count,
      Predicate<PageRef> enters,
      BiConsumer<PageRef, Long> visitor) {
    if (!enters.test(ref)) {
      return;
    }
    if (height == 0) {
      visitor.accept(ref, count);
      return;
    }
    Node<V, S> node = tree.node(ref, height, count, false);
    for (int i = 0; i < node.size; i++) {
      eachLeaf(tree, node.children[i], height - 1, node.counts[i], enters, visitor);
    }
  }

  private <V, S> PageRef page(
      PageTree<V, S> tree, PageRef ref, int height, long count, UnaryOperator<PageRef> inValue) {
    return copy(ref, () -> copyOf(tree, ref, height, count, inValue));
  }

  private <V, S> PageRef copyOf(
      PageTree<V, S> tree, PageRef ref, int height, long count, UnaryOperator<PageRef> inValue) {
    TreeFormat<V, S> format = tree.format();
    Node<V, S> node = tree.node(ref, height, count, false);
    if (height > 0) {
      List<Node.Piece<S>> children = new ArrayList<>(node.size);
      for (int i = 0; i < node.size; i++) {
        Node.Piece<S> child = node.child(i);
        PageRef moved = page(tree, child.ref(), height - 1, child.count(), inValue);
        children.add(new Node.Piece<>(child.key(), moved, child.count(), child.summary(), false));
      }
      Node<V, S> made = Node.inner(format, children);
      PageRef copy =
          batch.add(
              made.encode(format, batch.next()),
              Reach.below(batch.home(), Arrays.asList(made.children)));
      batch.keep(copy, made);
      return copy;
    }
    if (node.values.stream().allMatch(value -> format.references(value).isEmpty())) {
      return batch.add(pages.read(ref)); // its bytes mean the same anywhere
    }
    List<V> values = new ArrayList<>(node.size);
    for (V value : node.values) {
      values.add(format.moved(value, inValue));
    }
    Node<V, S> made = Node.leaf(format, List.of(node.keys()), format.together(values));
    return batch.add(made.encode(format, batch.next()), format.below(made.values, batch.home()));
  }
}
