package org.ysteron.internal.commit;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.store.ObjectStore;

/**
 * Where the new pages of an entry lie: in the entry itself, those of each table and then the lake's
 * own; or, when they are large, in an object for each table and one for the lake. For one thread.
 */
final class EntryPages {
  private static final int LARGE = 256 << 10;

  private static volatile int large = LARGE;

  private final ObjectStore store;
  private final long start;
  private final List<PageBatch> made = new ArrayList<>();
  private final PageBatch region = new PageBatch();
  private PageBatch lake;
  private LakePage page;
  private PageRef ref;
  private byte[] own = new byte[0];
  private boolean inEntry;

  /** Sets from which size on pages have objects of their own, for tests; 0 for what it is. */
  static void makeObjectsAbove(int bytes) {
    large = bytes == 0 ? LARGE : bytes;
  }

  private EntryPages(ObjectStore store, long start) {
    this.store = store;
    this.start = start;
  }

  /**
   * Lays pages out and makes the lake's own.
   *
   * @param start the number that goes into the names of objects
   */
  static EntryPages lay(Staging staging, ObjectStore store, long start) {
    EntryPages laid = new EntryPages(store, start);
    laid.layInEntry(staging);
    if (laid.own.length > large) {
      laid.layInObjects(staging);
    }
    return laid;
  }

  private void layInEntry(Staging staging) {
    long from = 0;
    for (Map.Entry<UUID, PageBatch> table : staging.tableBatches()) {
      table.getValue().join(region, from);
      made.add(table.getValue());
      from += table.getValue().size();
    }
    makeLake(staging, from);
    ByteOut all = new ByteOut((int) (from + lake.size()));
    made.forEach(batch -> all.raw(batch.toByteArray()));
    own = all.toByteArray();
    inEntry = true;
  }

  private void makeLake(Staging staging, long from) {
    lake = new PageBatch();
    if (from >= 0) {
      lake.join(region, from);
    }
    page = staging.page(lake);
    ref = page.write(lake);
    made.add(lake);
  }

  private void layInObjects(Staging staging) {
    made.clear();
    for (Map.Entry<UUID, PageBatch> table : staging.tableBatches()) {
      PageBatch batch = table.getValue();
      batch.store(store, PageHome.tablePages(table.getKey(), start, UUID.randomUUID()));
      made.add(batch);
    }
    makeLake(staging, -1);
    lake.store(store, PageHome.lakePages(start, UUID.randomUUID()));
    own = new byte[0];
    inEntry = false;
  }

  /** The lake page. */
  LakePage page() {
    return page;
  }

  /** Where the lake page is. */
  PageRef ref() {
    return ref;
  }

  /** The pages that lie in the entry, behind its lines. */
  byte[] own() {
    return own;
  }

  /** The end of the entry, as those pages count. */
  PagePlace end() {
    return new PagePlace(region.home(), own.length);
  }

  /** Says that the pages are in an entry, behind its lines; those that are in it. */
  void settle(long number, int lines) {
    if (inEntry) {
      region.settleInEntry(number, lines);
    }
  }

  /** Lets everybody find what the pages of an entry that is there were made from. */
  void adopt(PageStore pages) {
    made.forEach(pages::adopt);
  }
}
