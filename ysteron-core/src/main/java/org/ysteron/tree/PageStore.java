package org.ysteron.tree;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Function;
import org.ysteron.data.Sha256;
import org.ysteron.error.DamagedException;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/** Reads pages, checks each against its reference, and keeps some decoded ones. Thread-safe. */
public final class PageStore {
  private static final long MOST_CACHED_BYTES = 16L << 20;
  private static final long MADE_WEIGHT = 16;

  private final ObjectStore store;
  private final AtomicLong pagesRead = new AtomicLong();
  private final Map<PageRef, Kept> cache = new LinkedHashMap<>(64, 0.75f, true);
  private long cachedBytes;

  /** Something decoded, and how many bytes of the cache it counts for. */
  private record Kept(Object decoded, long weight) {}

  public PageStore(ObjectStore store) {
    this.store = store;
  }

  /** How many pages were read from the store so far. */
  public long pagesRead() {
    return pagesRead.get();
  }

  /**
   * The bytes of a page.
   *
   * @throws DamagedException when they are missing or not what the reference promises
   */
  public byte[] read(PageRef ref) {
    PageBatch open = ref.home().openBatch();
    if (open != null) {
      return open.at(ref.offset());
    }
    String name = ref.home().objectName();
    byte[] page;
    try (ObjectInput input = store.open(name)) {
      long start = ref.home().regionStart() + ref.offset();
      if (start < 0 || start + ref.length() > input.size()) {
        throw new DamagedException(
            "Object %s in %s is cut short: a page at %d of %d bytes was expected, but it has %d bytes in all. Restore it from a copy of the lake."
                .formatted(name, store.location(), start, ref.length(), input.size()));
      }
      page = input.read(start, ref.length());
    } catch (MissingObjectException e) {
      throw new DamagedException(
          "Object %s is missing in %s, though the lake refers to a page in it. Restore it from a copy of the lake."
              .formatted(name, store.location()),
          e);
    }
    pagesRead.incrementAndGet();
    if (!Arrays.equals(Sha256.of(page), ref.hash())) {
      throw new DamagedException(
          "Object %s in %s is damaged: the page at %d of %d bytes has not the SHA-256 %s that was expected. Restore it from a copy of the lake."
              .formatted(
                  name,
                  store.location(),
                  ref.home().regionStart() + ref.offset(),
                  ref.length(),
                  ref.hashText()));
    }
    return page;
  }

  /** Forgets the pages of a batch that will not be committed. */
  public synchronized void forget(PageBatch batch) {
    var entries = cache.entrySet().iterator();
    while (entries.hasNext()) {
      var entry = entries.next();
      if (entry.getKey().home() == batch.home()) {
        cachedBytes -= entry.getValue().weight;
        entries.remove();
      }
    }
  }

  /** A page that is no tree's, decoded once and kept for a while. */
  @SuppressWarnings("unchecked") // a reference is only ever decoded in one way
  public <T> T decoded(PageRef ref, Function<byte[], T> decoder) {
    Object cached = cached(ref);
    if (cached != null) {
      return (T) cached;
    }
    T value = decoder.apply(read(ref));
    keep(ref, value);
    return value;
  }

  synchronized Object cached(PageRef ref) {
    Kept kept = cache.get(ref);
    return kept == null ? null : kept.decoded;
  }

  /** Keeps what a page was decoded to; that is lazy and small. */
  void keep(PageRef ref, Object decoded) {
    keep(ref, decoded, ref.length());
  }

  /** Keeps what a page was made from, which is some times larger than the page. */
  public void keepMade(PageRef ref, Object made) {
    keep(ref, made, MADE_WEIGHT * ref.length());
  }

  private synchronized void keep(PageRef ref, Object decoded, long weight) {
    Kept before = cache.remove(ref);
    cachedBytes += weight - (before == null ? 0 : before.weight);
    cache.put(ref, new Kept(decoded, weight));
    var eldest = cache.values().iterator();
    while (cachedBytes > MOST_CACHED_BYTES && eldest.hasNext()) {
      cachedBytes -= eldest.next().weight;
      eldest.remove();
    }
  }
}
