package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.BiFunction;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.ShortObjectException;
import org.ysteron.store.StoreException;

/**
 * Reads pages, checks each against its reference, and keeps some decoded ones by hash and place:
 * pages with the same bytes in another object are other pages, for what is below them is elsewhere.
 * What an unfinished commit made is kept by its own batch and seen by nobody else. Thread-safe.
 */
public final class PageStore {
  private static final long MOST_CACHED_BYTES = 16L << 20;
  private static final long MADE_WEIGHT = 16;

  /** What the smallest page takes when it is decoded. */
  private static final long LEAST_WEIGHT = 512;

  private final ObjectStore store;
  private final Past past;
  private final Cache cache;
  private final AtomicLong pagesRead = new AtomicLong();

  /** Something decoded, and how many bytes of the cache it counts for. */
  private record Kept(Object decoded, long weight) {}

  /** The decoded pages that were used last. Thread-safe. */
  private static final class Cache {
    private final long mostBytes;
    private final Map<PageRef, Kept> kept = new LinkedHashMap<>(64, 0.75f, true);
    private long bytes;

    Cache(long mostBytes) {
      this.mostBytes = mostBytes;
    }

    synchronized Object get(PageRef ref) {
      Kept found = kept.get(ref);
      return found == null ? null : found.decoded;
    }

    synchronized void put(PageRef ref, Object decoded, long weight) {
      Kept before = kept.remove(ref);
      bytes += weight - (before == null ? 0 : before.weight);
      kept.put(ref, new Kept(decoded, weight));
      var eldest = kept.values().iterator();
      while (bytes > mostBytes && eldest.hasNext()) {
        bytes -= eldest.next().weight;
        eldest.remove();
      }
    }
  }

  /** Pages of a store whose entries are all promised. */
  public PageStore(ObjectStore store) {
    this(store, Past.WHOLE);
  }

  /**
   * Pages of a store.
   *
   * @param past tells what may be gone
   */
  public PageStore(ObjectStore store, Past past) {
    this(store, past, MOST_CACHED_BYTES);
  }

  /** Pages of a store, of which about so many bytes are kept. */
  public PageStore(ObjectStore store, Past past, long mostCached) {
    this(store, past, new Cache(mostCached));
  }

  private PageStore(ObjectStore store, Past past, Cache cache) {
    this.store = store;
    this.past = past;
    this.cache = cache;
  }

  /** The same pages, read by another way to the same objects; what is kept is shared. */
  public PageStore through(ObjectStore other) {
    return new PageStore(other, past, cache);
  }

  /** Tells what may be gone. */
  public Past past() {
    return past;
  }

  /** How many pages were read from the store so far. */
  public long pagesRead() {
    return pagesRead.get();
  }

  /**
   * The bytes of a page.
   *
   * @throws ExpiredException when they were in an entry below the floor
   * @throws DamagedException when they are missing or not what the reference promises
   */
  public byte[] read(PageRef ref) {
    PageBatch open = ref.home().openBatch();
    if (open != null) {
      return open.at(ref.offset());
    }
    String name = ref.home().objectName();
    byte[] page;
    try {
      page = store.readRange(name, ref.position(), ref.length());
    } catch (ShortObjectException e) {
      throw gone(
          ref,
          "Object %s in %s is cut short: a page at %d of %d bytes was expected, but it has %d bytes in all."
              .formatted(name, store.location(), ref.position(), ref.length(), e.size()),
          e);
    } catch (MissingObjectException e) {
      throw gone(
          ref,
          "Object %s is missing in %s, but the lake refers to a page in it."
              .formatted(name, store.location()),
          e);
    }
    pagesRead.incrementAndGet();
    if (!Sha256.is(page, ref.hash())) {
      throw gone(
          ref,
          "Object %s in %s is damaged: the page at %d of %d bytes does not have the expected SHA-256 %s."
              .formatted(name, store.location(), ref.position(), ref.length(), ref.hashText()),
          null);
    }
    return page;
  }

  /**
   * The bytes of pages that lie behind one another, read in one go; null for one that is kept
   * decoded, or that could not be read so and is to be read alone, which says why.
   */
  List<byte[]> readRun(List<PageRef> refs) {
    byte[][] pages = new byte[refs.size()][];
    if (refs.size() > 1 && refs.stream().anyMatch(ref -> cached(ref) == null)) {
      PageRef first = refs.get(0);
      int length = refs.stream().mapToInt(PageRef::length).sum();
      byte[] run;
      try {
        run = store.readRange(first.home().objectName(), first.position(), length);
      } catch (StoreException e) {
        return Arrays.asList(pages);
      }
      int from = 0;
      for (int i = 0; i < pages.length; i++) {
        byte[] page = Arrays.copyOfRange(run, from, from += refs.get(i).length());
        if (Sha256.is(page, refs.get(i).hash())) {
          pages[i] = page;
          pagesRead.incrementAndGet();
        }
      }
    }
    return Arrays.asList(pages);
  }

  /** Nothing is called damaged before it was asked whether it may be gone. */
  private RuntimeException gone(PageRef ref, String damage, RuntimeException cause) {
    PageHome home = ref.home();
    if (!past.isNeeded(home)) {
      return new ExpiredException(
          "The requested state has expired: its metadata was in %s of %s, which is no longer kept. Read the newest state."
              .formatted(home.objectName(), store.location()),
          cause);
    }
    return DamagedException.of(
        home.objectName(), damage + " Restore it from a copy of the lake.", cause);
  }

  /** Keeps what the pages of a commit that happened were made from. */
  public void adopt(PageBatch batch) {
    batch.eachKept((ref, made) -> cache.put(ref, made, MADE_WEIGHT * ref.length()));
    batch.home().release();
  }

  /** A page that is no tree's, decoded once and kept for a while. */
  public <T> T decoded(PageRef ref, Class<T> as, BiFunction<byte[], PagePlace, T> decoder) {
    Object cached = cached(ref);
    if (as.isInstance(cached)) { // else what is there now is referred to as something else
      return as.cast(cached);
    }
    T value = decode(ref, decoder);
    keep(ref, value);
    return value;
  }

  /** Reads and decodes a page; what goes wrong in that is damage of the object it is in. */
  <T> T decode(PageRef ref, BiFunction<byte[], PagePlace, T> decoder) {
    return decode(ref, read(ref), decoder);
  }

  /** Decodes a page that was read. */
  <T> T decode(PageRef ref, byte[] page, BiFunction<byte[], PagePlace, T> decoder) {
    PagePlace place = new PagePlace(ref.home(), ref.offset());
    return place.guarded(() -> decoder.apply(page, place));
  }

  Object cached(PageRef ref) {
    PageBatch open = ref.home().openBatch();
    if (open != null) {
      return open.kept(ref);
    }
    return cache.get(ref);
  }

  /** Keeps what a page was decoded to; that is lazy and small. */
  void keep(PageRef ref, Object decoded) {
    PageBatch open = ref.home().openBatch();
    if (open != null) {
      open.keep(ref, decoded);
    } else {
      cache.put(ref, decoded, LEAST_WEIGHT + ref.length());
    }
  }
}
