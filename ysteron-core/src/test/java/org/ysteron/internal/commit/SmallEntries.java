package org.ysteron.internal.commit;

/** As long as it is open, pages of more bytes have objects of their own; 0 for what is usual. */
public final class SmallEntries implements AutoCloseable {
  public SmallEntries(int bytes) {
    EntryPages.makeObjectsAbove(bytes);
  }

  @Override
  public void close() {
    EntryPages.makeObjectsAbove(0);
  }
}
