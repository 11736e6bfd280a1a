package org.ysteron;

import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.copying.SmallCopies;
import org.ysteron.internal.keys.KeyLimit;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.internal.upkeep.SmallExpiries;
import org.ysteron.internal.write.BufferLimit;

/**
 * Limits so small that random tests reach them, as the bits of a seed say: sources of more keys
 * than are in memory at once, rows of more parts, file trees of many leaves, schemas in pages and
 * pages in objects of their own, pages that are copied for little, expiries of several commits; any
 * of them, or none.
 */
final class SmallLimits implements AutoCloseable {
  private final KeyLimit keys;
  private final BufferLimit rows;
  private final SmallPages pages;
  private final SmallEntries entries;
  private final SmallCopies copies;
  private final SmallExpiries expiries;

  SmallLimits(long seed) {
    keys = new KeyLimit((seed & 1) == 0 ? 0 : 2);
    rows = new BufferLimit((seed & 32) == 0 ? 0 : 300);
    pages = new SmallPages((seed & 2) == 0 ? 0 : 400, (seed & 4) == 0 ? 0 : 200, (seed & 256) != 0);
    entries = new SmallEntries((seed & 8) == 0 ? 0 : (int) (seed & 16) * 200 + 1);
    copies = new SmallCopies((seed & 64) != 0, (seed & 128) != 0);
    expiries = new SmallExpiries((seed & 512) == 0 ? 0 : 2);
  }

  @Override
  public void close() {
    keys.close();
    rows.close();
    pages.close();
    entries.close();
    copies.close();
    expiries.close();
  }
}
