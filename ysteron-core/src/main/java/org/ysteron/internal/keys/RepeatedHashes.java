package org.ysteron.internal.keys;

import java.util.Arrays;

/**
 * Finds which numbers come more than once. They are kept as they come, and spread by their first
 * bits when all are there, into runs of some thousand: so each is looked up in a table that a
 * processor's cache holds, not in one as large as all of them. For one thread.
 */
final class RepeatedHashes {
  private static final int RUN_BITS = 12;

  private long[] hashes;
  private int size;

  RepeatedHashes(int expected) {
    hashes = new long[Math.max(16, expected)];
  }

  void add(long hash) {
    if (size == hashes.length) {
      hashes = Arrays.copyOf(hashes, size + size / 2);
    }
    hashes[size++] = hash;
  }

  /** The numbers that came more than once, ascending. */
  long[] repeated() {
    int bits = Math.max(0, 32 - Integer.numberOfLeadingZeros(size) - RUN_BITS);
    int[] ends = new int[1 << bits];
    for (int i = 0; i < size; i++) {
      ends[run(hashes[i], bits)]++;
    }
    int longest = 0;
    int sum = 0;
    for (int run = 0; run < ends.length; run++) {
      longest = Math.max(longest, ends[run]);
      sum += ends[run];
      ends[run] = sum;
    }
    long[] spread = new long[size];
    int[] starts = ends.clone();
    for (int i = 0; i < size; i++) {
      spread[--starts[run(hashes[i], bits)]] = hashes[i];
    }
    long[] table = new long[Integer.highestOneBit(Math.max(1, longest)) * 4];
    long[] found = new long[16];
    int count = 0;
    for (int run = 0; run < ends.length; run++) {
      Arrays.fill(table, 0);
      boolean hasZero = false;
      for (int i = starts[run]; i < ends[run]; i++) {
        boolean isThere = spread[i] == 0 ? hasZero : !put(table, spread[i]);
        hasZero |= spread[i] == 0;
        if (isThere) {
          found = count == found.length ? Arrays.copyOf(found, count * 2) : found;
          found[count++] = spread[i];
        }
      }
    }
    return Arrays.stream(found, 0, count).sorted().distinct().toArray();
  }

  private static int run(long hash, int bits) {
    return bits == 0 ? 0 : (int) (hash >>> (64 - bits));
  }

  /** Puts a number that is not 0; false when it is there. */
  private static boolean put(long[] table, long hash) {
    int mask = table.length - 1;
    int slot = (int) hash & mask;
    while (table[slot] != 0) {
      if (table[slot] == hash) {
        return false;
      }
      slot = (slot + 1) & mask;
    }
    table[slot] = hash;
    return true;
  }
}
