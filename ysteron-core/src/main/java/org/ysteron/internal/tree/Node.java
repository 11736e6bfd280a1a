package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * A decoded page of a tree: keys in ascending order, and values (in a leaf) or children with their
 * counts and summaries. The key of a child is the least one below it. Immutable.
 */
final class Node<V, S> {
  private static final int LEAF = 0;
  private static final int INNER = 1;
  private static final int KEYS = 0;
  private static final int CHILDREN = 1;
  private static final int COUNTS = 2;
  private static final int MOST_KEYS = 1 << 22;

  final boolean leaf;
  final int size;
  final List<V> values;
  final PageRef[] children;
  final long[] counts;
  final List<S> summaries;

  /** How many keys of leaves are here or below. */
  final long total;

  private final Sections sections;
  private byte[][] keys;

  /** By which it was decoded or is encoded. */
  final TreeFormat<V, S> format;

  private Node(
      TreeFormat<V, S> format,
      boolean leaf,
      int size,
      List<V> values,
      PageRef[] children,
      long[] counts,
      List<S> summaries,
      Sections sections,
      byte[][] keys) {
    this.format = format;
    this.leaf = leaf;
    this.size = size;
    this.values = values;
    this.children = children;
    this.counts = counts;
    this.summaries = summaries;
    this.sections = sections;
    this.keys = keys;
    long sum = 0;
    for (int i = 0; !leaf && i < size; i++) {
      sum += counts[i];
    }
    this.total = leaf ? size : sum;
  }

  static <V, S> Node<V, S> leaf(TreeFormat<V, S> format, List<byte[]> keys, List<V> values) {
    return new Node<>(
        format, true, keys.size(), values, null, null, null, null, keys.toArray(byte[][]::new));
  }

  static <V, S> Node<V, S> inner(TreeFormat<V, S> format, List<Piece<S>> pieces) {
    return new Node<>(
        format,
        false,
        pieces.size(),
        null,
        pieces.stream().map(Piece::ref).toArray(PageRef[]::new),
        pieces.stream().mapToLong(Piece::count).toArray(),
        pieces.stream().map(Piece::summary).toList(),
        null,
        pieces.stream().map(Piece::key).toArray(byte[][]::new));
  }

  /** The keys; decoded when first asked for. */
  synchronized byte[][] keys() {
    if (keys == null) {
      keys = sections.guarded(() -> readKeys(sections.part(KEYS), size));
    }
    return keys;
  }

  byte[] key(int i) {
    return keys()[i];
  }

  /** The last position whose key is at most {@code key}, or -1. */
  int floor(byte[] key) {
    int at = Arrays.binarySearch(keys(), key, Arrays::compareUnsigned);
    return at >= 0 ? at : -at - 2;
  }

  /** The end of those of some keys, from one of them on, that are below a child. */
  int endBelow(int child, List<byte[]> of, int from, int to) {
    int end = from;
    while (end < to
        && (child + 1 == size || Arrays.compareUnsigned(of.get(end), key(child + 1)) < 0)) {
      end++;
    }
    return end;
  }

  Piece<S> child(int i) {
    return new Piece<>(key(i), children[i], counts[i], summaries.get(i), false);
  }

  byte[] encode(TreeFormat<V, S> format, PagePlace place) {
    Sections.Builder out = new Sections.Builder(place);
    writeKeys(out.part(KEYS));
    if (leaf) {
      format.writeValues(values, out);
    } else {
      PageRef.writeAll(children, out.part(CHILDREN), place);
      out.part(COUNTS).packed(counts, size);
      format.writeSummaries(summaries, out);
    }
    ByteOut page = new ByteOut(format.pageBytes() * 2);
    page.u8(format.code()).u8(leaf ? LEAF : INNER).varint(size);
    out.write(page);
    return page.toByteArray();
  }

  /** Adds this, which was made for it, to a batch. */
  Piece<S> addTo(PageBatch batch) {
    return addTo(batch, encode(format, batch.next()));
  }

  /** Adds this, encoded already, to a batch. */
  Piece<S> addTo(PageBatch batch, byte[] page) {
    PageHome home = batch.home();
    Reach below = leaf ? format.below(values, home) : Reach.below(home, Arrays.asList(children));
    if (format.isReadBack()) {
      decode(page, format, batch.next()).check(this); // what cannot be read is not offered
    }
    PageRef ref = batch.add(page, below);
    batch.keep(ref, this);
    S summary = leaf ? format.summarize(values) : format.combine(summaries);
    return new Piece<>(key(0), ref, total, summary, true);
  }

  static <V, S> Node<V, S> decode(byte[] page, TreeFormat<V, S> format, PagePlace place) {
    ByteIn in = new ByteIn(page);
    int code = in.u8();
    int kind = in.u8();
    if (code != format.code() || kind > INNER) {
      throw new DamagedException(
          "A page is of kind %d/%d where %d was expected.".formatted(code, kind, format.code()));
    }
    int size = in.bounded(MOST_KEYS);
    if (size == 0) {
      throw new DamagedException("A page of a tree has no keys.");
    }
    Sections sections = Sections.read(in, place);
    if (kind == LEAF) {
      List<V> values = format.readValues(size, sections);
      return new Node<>(format, true, size, values, null, null, null, sections, null);
    }
    PageRef[] children = PageRef.readAll(size, sections.part(CHILDREN), place);
    long[] counts = sections.part(COUNTS).packed(size);
    check(children, counts);
    List<S> summaries = format.readSummaries(size, sections);
    return new Node<>(format, false, size, null, children, counts, summaries, sections, null);
  }

  /** A page has one parent, and something below it. */
  private static void check(PageRef[] children, long[] counts) {
    Set<PageRef> seen = new HashSet<>();
    long total = 0;
    for (int i = 0; i < children.length; i++) {
      total += counts[i];
      if (counts[i] < 1 || total < 1 || !seen.add(children[i])) {
        throw new DamagedException("A page of a tree has a child twice, or one with no keys.");
      }
    }
  }

  /**
   * Compares what a page is read as with what it was made from.
   *
   * @throws IllegalStateException when they differ
   */
  void check(Node<V, S> made) {
    boolean same =
        size == made.size
            && Arrays.deepEquals(keys(), made.keys())
            && (leaf
                ? values.equals(made.values)
                : Arrays.equals(children, made.children) && Arrays.equals(counts, made.counts));
    if (!same) {
      throw new IllegalStateException("a page of a tree cannot be read back as it was made");
    }
  }

  /** Each key as the length it shares with the one before, and the rest; all of it compressed. */
  private void writeKeys(ByteOut out) {
    ByteOut plain = new ByteOut();
    byte[] before = new byte[0];
    for (byte[] key : keys()) {
      int shared = Arrays.mismatch(before, key);
      shared = shared < 0 ? key.length : shared;
      plain.varint(shared).varint(key.length - shared).raw(key, shared, key.length - shared);
      before = key;
    }
    out.zstd(plain.toByteArray());
  }

  private static byte[][] readKeys(ByteIn in, int count) {
    ByteIn plain = new ByteIn(in.zstd());
    if (count > plain.remaining() / 2) {
      throw new DamagedException("It has too few bytes for " + count + " keys.");
    }
    byte[][] keys = new byte[count][];
    byte[] before = new byte[0];
    for (int i = 0; i < count; i++) {
      int shared = plain.bounded(before.length);
      byte[] rest = plain.sized();
      byte[] key = Arrays.copyOf(before, shared + rest.length);
      System.arraycopy(rest, 0, key, shared, rest.length);
      if (i > 0 && Arrays.compareUnsigned(before, key) >= 0) {
        throw new DamagedException("Its keys are not in order.");
      }
      keys[i] = key;
      before = key;
    }
    return keys;
  }

  /** A subtree as its parent knows it; {@code fresh} when this commit made it. */
  record Piece<S>(
      @SuppressWarnings("ArrayRecordComponent") byte[] key,
      PageRef ref,
      long count,
      S summary,
      boolean fresh) {}
}
