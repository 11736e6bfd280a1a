package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.function.Supplier;
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
  private final Supplier<Optional<Root>> elsewhere;

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
    this(pages, format, root, Optional::empty);
  }

  private PageTree(
      PageStore pages, TreeFormat<V, S> format, Root root, Supplier<Optional<Root>> elsewhere) {
    this.elsewhere = elsewhere;
    this.pages = pages;
    this.format = format;
    this.root = root;
  }

  public Root root() {
    return root;
  }

  /**
   * This tree, whose cursors go on in a copy of it when pages of it are gone.
   *
   * @param copy looks up where the copy is; empty for none
   */
  public PageTree<V, S> orElsewhere(Supplier<Optional<Root>> copy) {
    return new PageTree<>(pages, format, root, copy);
  }

  /** A copy of this tree, which is not where this one is; empty for none. */
  Optional<PageTree<V, S>> copy() {
    return elsewhere
        .get()
        .filter(other -> other.ref() != null && !other.equals(root))
        .map(other -> new PageTree<>(pages, format, other, elsewhere));
  }

  public long count() {
    return root.count;
  }

  public TreeFormat<V, S> format() {
    return format;
  }

  /** The root's node, kept in the cache. */
  Node<V, S> top() {
    return node(root.ref, root.height, root.count, true);
  }

  /** A child of a node that is so high above the leaves, kept in the cache. */
  Node<V, S> child(Node<V, S> parent, int height, int i) {
    return node(parent.children[i], height - 1, parent.counts[i], true);
  }

  /**
   * The node of a reference.
   *
   * @param height how high above the leaves it must be
   * @param count how many keys must be below it; -1 when that is not known
   * @param keep whether it is kept in the cache
   */
  Node<V, S> node(PageRef ref, int height, long count, boolean keep) {
    return node(ref, null, height, count, keep);
  }

  /**
   * The node of a reference.
   *
   * @param read its bytes; null when they are still to be read
   */
  @SuppressWarnings("unchecked") // its format says what is in it
  Node<V, S> node(PageRef ref, byte[] read, int height, long count, boolean keep) {
    Node<V, S> node;
    if (pages.cached(ref) instanceof Node<?, ?> cached && cached.format == format) {
      node = (Node<V, S>) cached;
    } else {
      byte[] bytes = read == null ? pages.read(ref) : read;
      node = pages.decode(ref, bytes, (page, place) -> Node.decode(page, format, place));
      if (keep) {
        pages.keep(ref, node);
      }
    }
    if (node.leaf != (height == 0) || (count >= 0 && node.total != count)) {
      throw DamagedException.of(
          ref.home().toString(),
          "A page in %s is a %s of %d keys where %d keys at height %d were expected. Restore it from a copy of the lake."
              .formatted(ref.home(), node.leaf ? "leaf" : "higher page", node.total, count, height),
          null);
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
    Node<V, S> node = top();
    for (int height = root.height; height > 0; height--) {
      int at = node.floor(key);
      if (at < 0) {
        return Optional.empty();
      }
      node = child(node, height, at);
    }
    int at = Arrays.binarySearch(node.keys(), key, Arrays::compareUnsigned);
    return at < 0 ? Optional.empty() : Optional.of(node.values.get(at));
  }

  /** The value of the greatest key that is not above one. */
  public Optional<V> atOrBefore(byte[] key) {
    return root.ref == null ? Optional.empty() : atOrBefore(top(), root.height, key);
  }

  private Optional<V> atOrBefore(Node<V, S> node, int height, byte[] key) {
    int at = node.floor(key);
    if (at < 0) {
      return Optional.empty();
    }
    // The key of a child is the least below it, so that the one before cannot be asked for in vain.
    return height == 0
        ? Optional.of(node.values.get(at))
        : atOrBefore(child(node, height, at), height - 1, key);
  }

  /**
   * The value of the key that has so many before it.
   *
   * @param rank from 0, below {@link #count}
   */
  public V at(long rank) {
    Node<V, S> node = top();
    long left = rank;
    for (int height = root.height; height > 0; height--) {
      int i = 0;
      while (left >= node.counts[i]) {
        left -= node.counts[i++];
      }
      node = child(node, height, i);
    }
    return node.values.get((int) left);
  }

  /** How many keys are less than one; reads one path only. */
  public long rank(byte[] key) {
    long before = 0;
    if (root.ref == null) {
      return before;
    }
    Node<V, S> node = top();
    for (int height = root.height; height > 0; height--) {
      int at = Math.max(0, node.floor(key));
      for (int i = 0; i < at; i++) {
        before += node.counts[i];
      }
      node = child(node, height, at);
    }
    int at = Arrays.binarySearch(node.keys(), key, Arrays::compareUnsigned);
    return before + (at < 0 ? -at - 1 : at);
  }

  /** The summary of everything; empty for an empty tree. */
  public Optional<S> summary() {
    if (root.ref == null) {
      return Optional.empty();
    }
    Node<V, S> node = top();
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
    return root.ref == null ? Optional.empty() : last(top(), root.height, below, entry);
  }

  private Optional<Map.Entry<byte[], V>> last(
      Node<V, S> node, int height, Predicate<S> below, Predicate<V> entry) {
    for (int i = node.size - 1; i >= 0; i--) {
      if (node.leaf) {
        V value = node.values.get(i);
        if (entry.test(value)) {
          return Optional.of(Map.entry(node.key(i), value));
        }
      } else if (below.test(node.summaries.get(i))) {
        Optional<Map.Entry<byte[], V>> found =
            last(child(node, height, i), height - 1, below, entry);
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

  /**
   * What a tree takes in the store.
   *
   * @param pages how many pages it has
   * @param bytes their sizes together
   */
  public record Footprint(long pages, long bytes) {}

  /** What this tree takes in the store; reads all pages but the leaves. */
  public Footprint footprint() {
    return root.ref == null ? new Footprint(0, 0) : footprint(root.ref, root.height, root.count);
  }

  private Footprint footprint(PageRef ref, int height, long count) {
    long pageCount = 1;
    long bytes = ref.length();
    if (height > 0) {
      Node<V, S> node = node(ref, height, count, false);
      for (int i = 0; i < node.size; i++) {
        Footprint below = footprint(node.children[i], height - 1, node.counts[i]);
        pageCount += below.pages;
        bytes += below.bytes;
      }
    }
    return new Footprint(pageCount, bytes);
  }

  /** What differs between this tree and a later one, skipping every page that both share. */
  public TreeDiff<V, S> diff(PageTree<V, S> later) {
    return diff(later, summary -> true);
  }

  /**
   * What differs between this tree and a later one in what matters.
   *
   * @param below whether entries below a node of this summary matter. An entry that matters in one
   *     tree only, because its place in the other one does not, is told as if it were not there
   */
  public TreeDiff<V, S> diff(PageTree<V, S> later, Predicate<S> below) {
    return new TreeDiff<>(this, later, below);
  }

  /** Whether an entry of a leaf passes; may look at the list's lazy form. */
  @FunctionalInterface
  public interface EntryTest<V> {
    boolean test(List<V> values, int position);
  }
}
