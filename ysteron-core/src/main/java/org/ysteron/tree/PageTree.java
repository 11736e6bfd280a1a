package org.ysteron.tree;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import org.ysteron.error.DamagedException;

/**
 * A persistent B+tree of pages, from keys (bytes, compared unsigned) to values. Immutable: an edit
 * makes a new tree that shares all pages but those on the paths to the edited keys. Thread-safe.
 *
 * @param <V> values
 * @param <S> summaries of subtrees
 */
public final class PageTree<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final Root root;

  /**
   * Where a tree starts.
   *
   * @param ref the root page; null in an empty tree
   * @param height 0 when the root is a leaf
   * @param count how many keys
   */
  public record Root(PageRef ref, int height, long count) {
    public static final Root EMPTY = new Root(null, 0, 0);

    private static final int MOST_HEIGHT = 20;

    /** As text for a page of JSON. */
    public String toText(PagePlace from) {
      return ref == null ? "" : height + " " + count + " " + ref.toText(from);
    }

    /** Reads what {@link #toText} wrote. */
    public static Root parse(String text, PagePlace from) {
      if (text.isEmpty()) {
        return EMPTY;
      }
      String[] parts = text.split(" ", 3);
      try {
        int height = Integer.parseInt(parts[0]);
        long count = Long.parseLong(parts[1]);
        if (height < 0 || height > MOST_HEIGHT || count < 0) {
          throw new DamagedException(
              "A tree has the height " + height + " and " + count + " keys.");
        }
        return new Root(PageRef.parse(parts[2], from), height, count);
      } catch (NumberFormatException | ArrayIndexOutOfBoundsException e) {
        throw new DamagedException("The root of a tree cannot be read.", e);
      }
    }
  }

  public PageTree(PageStore pages, TreeFormat<V, S> format, Root root) {
    this.pages = pages;
    this.format = format;
    this.root = root;
  }

  public Root root() {
    return root;
  }

  public long count() {
    return root.count;
  }

  TreeFormat<V, S> format() {
    return format;
  }

  /** The node of a reference; leaves are kept in the cache only when asked. */
  @SuppressWarnings("unchecked") // a reference is only ever decoded by the format of its tree
  Node<V, S> node(PageRef ref, boolean keep) {
    Object cached = pages.cached(ref);
    if (cached != null) {
      return (Node<V, S>) cached;
    }
    Node<V, S> node = Node.decode(pages.read(ref), format, new PagePlace(ref.home(), ref.offset()));
    if (keep) {
      pages.keep(ref, node);
    }
    return node;
  }

  PageStore pages() {
    return pages;
  }

  /** The value of a key. */
  public Optional<V> get(byte[] key) {
    if (root.ref == null) {
      return Optional.empty();
    }
    Node<V, S> node = node(root.ref, true);
    while (!node.leaf) {
      int at = node.floor(key);
      if (at < 0) {
        return Optional.empty();
      }
      node = node(node.children[at], true);
    }
    int at = Arrays.binarySearch(node.keys(), key, Arrays::compareUnsigned);
    return at < 0 ? Optional.empty() : Optional.of(node.values.get(at));
  }

  /** How many keys are less than one; reads one path only. */
  public long rank(byte[] key) {
    long before = 0;
    if (root.ref == null) {
      return before;
    }
    Node<V, S> node = node(root.ref, true);
    while (!node.leaf) {
      int at = Math.max(0, node.floor(key));
      for (int i = 0; i < at; i++) {
        before += node.counts[i];
      }
      node = node(node.children[at], true);
    }
    int at = Arrays.binarySearch(node.keys(), key, Arrays::compareUnsigned);
    return before + (at < 0 ? -at - 1 : at);
  }

  /** The summary of everything; empty for an empty tree. */
  public Optional<S> summary() {
    if (root.ref == null) {
      return Optional.empty();
    }
    Node<V, S> node = node(root.ref, true);
    return Optional.of(node.leaf ? format.summarize(node.values) : format.combine(node.summaries));
  }

  /** Starts reading all keys in order. */
  public TreeCursor<V, S> cursor() {
    return new TreeCursor<>(this, summary -> true, (values, i) -> true, new byte[0]);
  }

  /** Starts reading from a key on. */
  public TreeCursor<V, S> cursorFrom(byte[] key) {
    return new TreeCursor<>(this, summary -> true, (values, i) -> true, key);
  }

  /**
   * Starts reading what passes some tests.
   *
   * @param below whether anything below a node of this summary may pass
   * @param entry whether an entry passes
   */
  public TreeCursor<V, S> cursor(Predicate<S> below, EntryTest<V> entry) {
    return new TreeCursor<>(this, below, entry, new byte[0]);
  }

  /** The last entry that passes, found by skipping every subtree whose summary does not. */
  public Optional<Map.Entry<byte[], V>> last(Predicate<S> below, Predicate<V> entry) {
    return root.ref == null ? Optional.empty() : last(node(root.ref, true), below, entry);
  }

  private Optional<Map.Entry<byte[], V>> last(
      Node<V, S> node, Predicate<S> below, Predicate<V> entry) {
    for (int i = node.size - 1; i >= 0; i--) {
      if (node.leaf) {
        V value = node.values.get(i);
        if (entry.test(value)) {
          return Optional.of(Map.entry(node.key(i), value));
        }
      } else if (below.test(node.summaries.get(i))) {
        Optional<Map.Entry<byte[], V>> found = last(node(node.children[i], true), below, entry);
        if (found.isPresent()) {
          return found;
        }
      }
    }
    return Optional.empty();
  }

  /**
   * Applies edits in the order of their keys, no key twice, and puts the new pages into a batch.
   *
   * @return the new tree
   */
  public PageTree<V, S> apply(List<Edit<V>> edits, PageBatch batch) {
    if (edits.isEmpty()) {
      return this;
    }
    return new PageTree<>(pages, format, new TreeEditor<>(this, batch).apply(edits));
  }

  /** What differs between this tree and a later one, skipping every page that both share. */
  public TreeDiff<V, S> diff(PageTree<V, S> later) {
    return new TreeDiff<>(this, later);
  }

  /** Whether an entry of a leaf passes; may look at the list's lazy form. */
  @FunctionalInterface
  public interface EntryTest<V> {
    boolean test(List<V> values, int position);
  }
}
