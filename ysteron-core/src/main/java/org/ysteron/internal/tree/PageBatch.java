package org.ysteron.internal.tree;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BiConsumer;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * New pages of one commit that belong together, in the order of their bytes, and what they were
 * made from, which nobody else sees before the commit has happened. For one thread; its pages may
 * be read by others meanwhile.
 */
public final class PageBatch {
  private final PageHome home = new PageHome(this);
  private final List<byte[]> pages = new ArrayList<>();
  private final Map<Long, byte[]> byOffset = new ConcurrentHashMap<>();
  private final Map<Long, Made> made = new ConcurrentHashMap<>();
  private long size;

  /** What a page was made from. */
  private record Made(PageRef ref, Object content) {}

  public PageHome home() {
    return home;
  }

  /** Where the next page will stand. */
  public PagePlace next() {
    return new PagePlace(home, size);
  }

  /** Adds a page that refers to no other, and returns a reference to it. */
  public PageRef add(byte[] page) {
    return add(page, Reach.NONE);
  }

  /**
   * Adds a page and returns a reference to it.
   *
   * @param below how far back the pages lie that hang on it, those of this batch apart
   */
  public PageRef add(byte[] page, Reach below) {
    PageRef ref = new PageRef(home, size, page.length, Sha256.of(page), below);
    byOffset.put(size, page);
    pages.add(page);
    size += page.length;
    return ref;
  }

  /** Bytes of all pages. */
  public long size() {
    return size;
  }

  byte[] at(long offset) {
    return byOffset.get(offset);
  }

  /** Remembers what a page of this batch was made from. */
  public void keep(PageRef ref, Object content) {
    made.put(ref.offset(), new Made(ref, content));
  }

  Object kept(PageRef ref) {
    Made known = made.get(ref.offset());
    return known == null ? null : known.content;
  }

  void eachKept(BiConsumer<PageRef, Object> visitor) {
    made.values().forEach(known -> visitor.accept(known.ref, known.content));
  }

  /** All pages one behind the other. */
  public byte[] toByteArray() {
    ByteOut out = new ByteOut((int) size);
    pages.forEach(out::raw);
    return out.toByteArray();
  }

  /** Says that the pages will lie in the same object as another batch's, from some byte on. */
  public void join(PageBatch other, long from) {
    home.join(other.home, from);
  }

  /** Says that the pages are in an entry, from some byte on. */
  public void settleInEntry(long number, long from) {
    home.settle(PageHome.entry(number), from);
  }

  /**
   * Writes the pages as an object of their own; a client that asks again by itself may find its own
   * there.
   */
  public void store(ObjectStore store, PageHome object) {
    byte[] content = toByteArray();
    String name = object.objectName();
    if (!store.createIfAbsent(name, content) && !isThere(store, name, content)) {
      throw new StoreException("Object " + name + " exists already, with other content.");
    }
    settle(object);
  }

  private static boolean isThere(ObjectStore store, String name, byte[] content) {
    try {
      return Arrays.equals(store.read(name), content);
    } catch (MissingObjectException e) {
      return false;
    }
  }

  /** Says that the pages are an object of their own. */
  public void settle(PageHome object) {
    home.settle(object, 0);
  }
}
