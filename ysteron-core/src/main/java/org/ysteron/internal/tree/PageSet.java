package org.ysteron.internal.tree;

import java.util.HashSet;
import java.util.Set;
import org.ysteron.internal.bytes.ByteIn;

/**
 * Pages that were seen, some 30 bytes for each: of millions of them a set of references would fill
 * the memory. It knows a page by 128 bits, made of the SHA-256 of its bytes and of its place; two
 * pages are taken for one with a chance of 2<sup>-128</sup> for each pair. For one thread.
 */
public final class PageSet {
  private static final int SHARDS = 64;
  private static final int SMALLEST = 8;

  /** Each is a table of its own, so that only a small part is there twice while it grows. */
  private final long[][] shards = new long[SHARDS][];

  private final int[] sizes = new int[SHARDS];

  /** Pages of an unfinished commit, which have no place yet. */
  private final Set<PageRef> open = new HashSet<>();

  /** Remembers a page; whether it is a new one. */
  public boolean add(PageRef ref) {
    if (!ref.home().isSettled()) {
      return open.add(ref);
    }
    ByteIn hash = new ByteIn(ref.hash());
    long high = hash.fixed64() ^ mixed(ref, 1);
    long low = hash.fixed64() ^ mixed(ref, 2);
    return add(high, high == 0 && low == 0 ? 1 : low);
  }

  /** A place in 64 bits. */
  private static long mixed(PageRef ref, long seed) {
    PageHome.Place place = ref.home().place();
    long z = mixed(seed * 16 + place.kind().code());
    z = mixed(z + place.number());
    z = mixed(z + place.table().getMostSignificantBits());
    z = mixed(z + place.table().getLeastSignificantBits());
    z = mixed(z + place.id().getMostSignificantBits());
    z = mixed(z + place.id().getLeastSignificantBits());
    return mixed(z + ref.position());
  }

  private boolean add(long high, long low) {
    int shard = (int) (high >>> 58);
    if (shards[shard] == null) {
      shards[shard] = new long[2 * SMALLEST];
    } else if (sizes[shard] * 8 >= shards[shard].length * 3) { // three quarters full
      shards[shard] = grown(shards[shard]);
    }
    boolean isNew = put(shards[shard], high, low);
    sizes[shard] += isNew ? 1 : 0;
    return isNew;
  }

  /** Pairs of numbers, zeros for none; each stands at its place or at the next that was free. */
  private static boolean put(long[] table, long high, long low) {
    int pairs = table.length / 2;
    int at = (int) (low & (pairs - 1));
    while (table[2 * at] != 0 || table[2 * at + 1] != 0) {
      if (table[2 * at] == high && table[2 * at + 1] == low) {
        return false;
      }
      at = (at + 1) & (pairs - 1);
    }
    table[2 * at] = high;
    table[2 * at + 1] = low;
    return true;
  }

  private static long[] grown(long[] table) {
    long[] larger = new long[table.length * 2];
    for (int i = 0; i < table.length; i += 2) {
      if (table[i] != 0 || table[i + 1] != 0) {
        put(larger, table[i], table[i + 1]);
      }
    }
    return larger;
  }

  /** Spreads a number over 64 bits: the finisher of SplitMix64 (Steele, Lea, Flood 2014). */
  private static long mixed(long number) {
    long z = number * 0x9E3779B97F4A7C15L;
    z = (z ^ (z >>> 30)) * 0xBF58476D1CE4E5B9L;
    z = (z ^ (z >>> 27)) * 0x94D049BB133111EBL;
    return z ^ (z >>> 31);
  }
}
