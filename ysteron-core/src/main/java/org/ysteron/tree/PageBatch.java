package org.ysteron.tree;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.ysteron.data.Sha256;

/** New pages of one commit, in the order of their bytes in the region. For one thread. */
public final class PageBatch {
  private final PageHome home = new PageHome(this);
  private final List<byte[]> pages = new ArrayList<>();
  private final List<Long> offsets = new ArrayList<>();
  private long size;

  public PageHome home() {
    return home;
  }

  /** Adds a page and returns a reference to it. */
  public PageRef add(byte[] page) {
    PageRef ref = new PageRef(home, size, page.length, Sha256.of(page));
    offsets.add(size);
    pages.add(page);
    size += page.length;
    return ref;
  }

  /** Bytes of all pages. */
  public long size() {
    return size;
  }

  public List<byte[]> pages() {
    return pages;
  }

  byte[] at(long offset) {
    int low = 0;
    int high = offsets.size() - 1;
    while (low < high) {
      int middle = (low + high + 1) >>> 1;
      if (offsets.get(middle) <= offset) {
        low = middle;
      } else {
        high = middle - 1;
      }
    }
    return pages.get(low);
  }

  /** All pages one behind the other. */
  public byte[] toByteArray() {
    ByteOut out = new ByteOut((int) size);
    pages.forEach(out::raw);
    return out.toByteArray();
  }

  /** Says that the pages are in an entry. */
  public void settleInEntry(long number, long regionStart) {
    home.settle(PageHome.Kind.ENTRY, number, new UUID(0, 0), regionStart);
  }

  /** Says that the pages are an object of their own. */
  public void settleInPages(long number, UUID id) {
    home.settle(PageHome.Kind.PAGES, number, id, 0);
  }
}
