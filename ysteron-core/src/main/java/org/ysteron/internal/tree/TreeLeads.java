package org.ysteron.internal.tree;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;

/**
 * Tells to which of some pages trees lead that share pages; each page is read once. For one thread.
 *
 * @param <V> values
 * @param <S> summaries
 */
public final class TreeLeads<V, S> {
  private final PageStore pages;
  private final TreeFormat<V, S> format;
  private final Set<PageRef> wanted;
  private final Map<PageRef, Set<PageRef>> known = new HashMap<>();

  /** Of some pages. */
  public TreeLeads(PageStore pages, TreeFormat<V, S> format, Set<PageRef> wanted) {
    this.pages = pages;
    this.format = format;
    this.wanted = wanted;
  }

  /** Those of the pages that a tree has, as far as it can be read. */
  public Set<PageRef> of(PageTree.Root root) {
    return root.ref() == null
        ? Set.of()
        : of(new PageTree<>(pages, format, root), root.ref(), root.height());
  }

  private Set<PageRef> of(PageTree<V, S> tree, PageRef ref, int height) {
    Set<PageRef> found = known.get(ref);
    if (found == null) {
      found = new HashSet<>();
      if (wanted.contains(ref)) {
        found.add(ref);
      }
      try {
        below(tree, tree.node(ref, height, -1, false), height, found);
      } catch (DamagedException | ExpiredException e) {
        // what hangs on it cannot be told
      }
      known.put(ref, found.isEmpty() ? Set.of() : found);
    }
    return found;
  }

  private void below(PageTree<V, S> tree, Node<V, S> node, int height, Set<PageRef> found) {
    if (node.leaf) {
      node.values.forEach(value -> format.references(value).forEach(ref -> take(ref, found)));
      return;
    }
    for (PageRef child : node.children) {
      found.addAll(of(tree, child, height - 1));
    }
  }

  private void take(PageRef ref, Set<PageRef> found) {
    if (wanted.contains(ref)) {
      found.add(ref);
    }
  }
}
