package org.ysteron;

import org.ysteron.change.KeyLimit;
import org.ysteron.table.SmallPages;

/**
 * Limits so small that random tests reach them, as a seed says: sources of more keys than are in
 * memory at once, file trees of many leaves, both, or neither.
 */
final class SmallLimits implements AutoCloseable {
  private final KeyLimit keys;
  private final SmallPages pages;

  SmallLimits(long seed) {
    long which = Math.floorMod(seed, 4);
    keys = new KeyLimit(which % 2 == 1 ? 2 : 0);
    pages = new SmallPages(which >= 2 ? 400 : 0);
  }

  @Override
  public void close() {
    keys.close();
    pages.close();
  }
}
