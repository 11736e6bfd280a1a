package org.ysteron.internal.tree;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Applies one batch of edits to a tree.
 *
 * <p>Pages aim at the format's size and split, by encoded bytes, only above one and a half times
 * that. A page that overflows at the right edge of the tree leaves full pages behind it, since what
 * is appended in key order never comes back; elsewhere it splits evenly. Before a parent takes over
 * more children than their bytes need, it packs neighbours that are light together with the new
 * ones, so that pages neither stay half full nor shrink away. An inner page has at least {@link
 * #LEAST_CHILDREN} children before it splits, however wide its summaries are.
 */
final class TreeEditor<V, S> {
  private static final int LEAST_CHILDREN = 64;
  private static final int SAMPLE = 64;
  private static final int TRY_WHOLE = 512;

  private final PageTree<V, S> tree;
  private final TreeFormat<V, S> format;
  private final PageBatch batch;
  private final int target;
  private final int most;

  TreeEditor(PageTree<V, S> tree, PageBatch batch) {
    this.tree = tree;
    this.format = tree.format();
    this.batch = batch;
    this.target = format.pageBytes();
    this.most = target + target / 2;
  }

  PageTree.Root apply(List<Edit<V>> edits) {
    for (int i = 1; i < edits.size(); i++) {
      if (Arrays.compareUnsigned(edits.get(i - 1).key(), edits.get(i).key()) >= 0) {
        throw new IllegalArgumentException("edits must be in the order of their keys");
      }
    }
    PageTree.Root root = tree.root();
    int height = root.height();
    List<Node.Piece<S>> pieces =
        root.ref() == null
            ? editLeaf(Node.leaf(format, List.of(), List.of()), edits, true)
            : editNode(tree.top(), height, edits, true);
    if (pieces.isEmpty()) {
      return PageTree.Root.EMPTY;
    }
    while (pieces.size() > 1) {
      pieces = packInner(pieces, true);
      height++;
    }
    Node.Piece<S> top = pieces.get(0);
    while (height > 0) {
      Node<V, S> node = tree.node(top.ref(), height, top.count(), true);
      if (node.size > 1) {
        break;
      }
      top = node.child(0);
      height--;
    }
    return new PageTree.Root(top.ref(), height, top.count());
  }

  private List<Node.Piece<S>> editNode(
      Node<V, S> node, int height, List<Edit<V>> edits, boolean rightEdge) {
    if (height == 0) {
      return editLeaf(node, edits, rightEdge);
    }
    List<Node.Piece<S>> pieces = new ArrayList<>();
    int from = 0;
    for (int i = 0; i < node.size; i++) {
      int to = i + 1 < node.size ? firstAtLeast(edits, from, node.key(i + 1)) : edits.size();
      if (to == from) {
        pieces.add(node.child(i));
      } else {
        boolean edge = rightEdge && i + 1 == node.size;
        pieces.addAll(
            editNode(tree.child(node, height, i), height - 1, edits.subList(from, to), edge));
      }
      from = to;
    }
    return packInner(regroup(pieces, height - 1, rightEdge), rightEdge);
  }

  private static <V> int firstAtLeast(List<Edit<V>> edits, int from, byte[] key) {
    int low = from;
    int high = edits.size();
    while (low < high) {
      int middle = (low + high) >>> 1;
      if (Arrays.compareUnsigned(edits.get(middle).key(), key) < 0) {
        low = middle + 1;
      } else {
        high = middle;
      }
    }
    return low;
  }

  private List<Node.Piece<S>> editLeaf(Node<V, S> node, List<Edit<V>> edits, boolean rightEdge) {
    List<byte[]> keys = new ArrayList<>(node.size + edits.size());
    List<V> values = new ArrayList<>(node.size + edits.size());
    int old = 0;
    for (Edit<V> edit : edits) {
      while (old < node.size && Arrays.compareUnsigned(node.key(old), edit.key()) < 0) {
        keys.add(node.key(old));
        values.add(node.values.get(old++));
      }
      if (old < node.size && Arrays.equals(node.key(old), edit.key())) {
        old++;
      }
      edit.value()
          .ifPresent(
              value -> {
                keys.add(edit.key());
                values.add(value);
              });
    }
    for (; old < node.size; old++) {
      keys.add(node.key(old));
      values.add(node.values.get(old));
    }
    return packLeaves(keys, values, rightEdge);
  }

  /** Packs light neighbours together where that saves pages. */
  private List<Node.Piece<S>> regroup(List<Node.Piece<S>> pieces, int height, boolean rightEdge) {
    List<Node.Piece<S>> result = new ArrayList<>();
    int i = 0;
    while (i < pieces.size()) {
      if (!pieces.get(i).fresh()) {
        result.add(pieces.get(i++));
        continue;
      }
      int end = i;
      while (end < pieces.size() && pieces.get(end).fresh()) {
        end++;
      }
      int start = result.size();
      List<Node.Piece<S>> run = new ArrayList<>(pieces.subList(i, end));
      if (start > 0 && isLight(result.get(start - 1))) {
        run.add(0, result.remove(start - 1));
      }
      if (end < pieces.size() && isLight(pieces.get(end))) {
        run.add(pieces.get(end++));
      }
      long bytes = run.stream().mapToLong(piece -> piece.ref().length()).sum();
      boolean edge = rightEdge && end == pieces.size();
      boolean anyLight = run.stream().anyMatch(this::isLight);
      long needed = bytes <= most ? 1 : (bytes + target - 1) / target;
      if (run.size() > 1 && anyLight && needed < run.size() && run.size() <= 4) {
        result.addAll(repack(run, height, edge));
      } else {
        result.addAll(run);
      }
      i = end;
    }
    return result;
  }

  private boolean isLight(Node.Piece<S> piece) {
    return piece.ref().length() < target * 3L / 4;
  }

  private List<Node.Piece<S>> repack(List<Node.Piece<S>> run, int height, boolean rightEdge) {
    if (height > 0) {
      List<Node.Piece<S>> children = new ArrayList<>();
      for (Node.Piece<S> piece : run) {
        Node<V, S> node = tree.node(piece.ref(), height, piece.count(), true);
        for (int i = 0; i < node.size; i++) {
          children.add(node.child(i));
        }
      }
      return packInner(children, rightEdge);
    }
    List<byte[]> keys = new ArrayList<>();
    List<V> values = new ArrayList<>();
    for (Node.Piece<S> piece : run) {
      Node<V, S> node = tree.node(piece.ref(), 0, piece.count(), true);
      keys.addAll(Arrays.asList(node.keys()));
      values.addAll(node.values);
    }
    return packLeaves(keys, values, rightEdge);
  }

  private List<Node.Piece<S>> packLeaves(List<byte[]> keys, List<V> values, boolean edge) {
    return pack(
        keys.size(),
        1,
        edge,
        (from, to) ->
            Node.leaf(
                format,
                keys.subList(from, to),
                format.together(List.copyOf(values.subList(from, to)))));
  }

  private List<Node.Piece<S>> packInner(List<Node.Piece<S>> children, boolean edge) {
    return pack(
        children.size(),
        LEAST_CHILDREN,
        edge,
        (from, to) -> Node.inner(format, children.subList(from, to)));
  }

  private interface Packed<V, S> {
    Node<V, S> node(int from, int to);
  }

  private List<Node.Piece<S>> pack(int size, int least, boolean rightEdge, Packed<V, S> part) {
    List<Node.Piece<S>> pieces = new ArrayList<>();
    if (size == 0) {
      return pieces;
    }
    if (size <= TRY_WHOLE) {
      Node<V, S> node = part.node(0, size);
      byte[] page = encode(node);
      if (page.length <= most || size <= least) {
        pieces.add(piece(node, page));
        return pieces;
      }
    }
    int sample = Math.min(size, Math.max(least, SAMPLE));
    double bytesEach = (double) encode(part.node(0, sample)).length / sample;
    int from = 0;
    while (from < size) {
      int rest = size - from;
      int take = Math.max(least, (int) (target / bytesEach));
      if (rest * bytesEach <= most || rest <= least) {
        take = rest;
      } else if (rest < 2L * take && !rightEdge) {
        take = Math.max(least, (rest + 1) / 2);
      }
      take = Math.min(take, rest);
      Node<V, S> node = part.node(from, from + take);
      byte[] page = encode(node);
      while (page.length > most && take > least) {
        take = Math.max(least, Math.min(take - 1, (int) ((long) take * target / page.length)));
        node = part.node(from, from + take);
        page = encode(node);
      }
      bytesEach = (double) page.length / take;
      pieces.add(piece(node, page));
      from += take;
    }
    return pieces;
  }

  private byte[] encode(Node<V, S> node) {
    return node.encode(format, batch.next());
  }

  private Node.Piece<S> piece(Node<V, S> node, byte[] page) {
    return node.addTo(batch, page);
  }
}
