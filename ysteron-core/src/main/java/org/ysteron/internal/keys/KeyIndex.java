package org.ysteron.internal.keys;

import java.util.Arrays;
import java.util.List;

/**
 * Rows by the hash of their key: a hash table of open addressing, 20 bytes a slot, at most two
 * thirds full. Not thread-safe while it is filled.
 */
public final class KeyIndex {
  /** As many keys as one index is meant for: some 250 MB; more are done in parts. */
  static final int MOST = 4_000_000;

  private static volatile int most = MOST;

  /** How many keys of a source are in memory at once. */
  public static int most() {
    return most;
  }

  /** Sets how many keys are in memory at once, so that tests reach it; 0 for what it is. */
  static void limitTo(int keys) {
    most = keys == 0 ? MOST : keys;
  }

  private static final int NONE = -1;
  private final List<Integer> fieldIds;
  private long[] firsts;
  private long[] seconds;
  private int[] rows;
  private int size;
  private long[] quick = new long[1];

  /** {@code fieldIds}: the columns of the key, in its order. */
  public KeyIndex(List<Integer> fieldIds, int expected) {
    this.fieldIds = fieldIds;
    allocate(Math.max(16, Integer.highestOneBit(Math.max(1, expected)) * 2));
    Arrays.fill(quick, -1L); // until keys have quick hashes, any may be here
  }

  private void allocate(int slots) {
    firsts = new long[slots];
    seconds = new long[slots];
    rows = new int[slots];
    Arrays.fill(rows, NONE);
  }

  /** Makes room for the quick hashes of so many keys. */
  public void expectQuick(long count) {
    int bits = 64 - Long.numberOfLeadingZeros(Math.max(1024, count * 8));
    quick = new long[1 << Math.min(22, bits - 6)];
  }

  /** Remembers the {@link KeyHash#quick} hash of a key. */
  public void addQuick(long hash) {
    quick[word(hash)] |= 1L << hash;
  }

  /** Whether a key of that quick hash may be here; false is certain. */
  boolean mayHave(long hash) {
    return (quick[word(hash)] & (1L << hash)) != 0;
  }

  private int word(long hash) {
    return (int) (hash >>> 32) & (quick.length - 1);
  }

  public List<Integer> fieldIds() {
    return fieldIds;
  }

  public int size() {
    return size;
  }

  private int slot(long first, long second) {
    int mask = rows.length - 1;
    int slot = (int) first & mask;
    while (rows[slot] != NONE && (firsts[slot] != first || seconds[slot] != second)) {
      slot = (slot + 1) & mask;
    }
    return slot;
  }

  /** The row under a key, or -1. */
  public int find(long first, long second) {
    return rows[slot(first, second)];
  }

  /** Puts a row, 0 or greater, under a key; returns the one that was there, or -1. */
  public int put(long first, long second, int row) {
    makeRoom();
    return put(slot(first, second), first, second, row);
  }

  private int put(int slot, long first, long second, int row) {
    int before = rows[slot];
    firsts[slot] = first;
    seconds[slot] = second;
    rows[slot] = row;
    size += before == NONE ? 1 : 0;
    return before;
  }

  /** Puts a row under a key that none is under; returns the one that is there, or -1. */
  public int putIfAbsent(long first, long second, int row) {
    makeRoom();
    int slot = slot(first, second);
    return rows[slot] == NONE ? put(slot, first, second, row) : rows[slot];
  }

  private void makeRoom() {
    if (size * 3L < rows.length * 2L) {
      return;
    }
    long[] oldFirsts = firsts;
    long[] oldSeconds = seconds;
    int[] oldRows = rows;
    allocate(rows.length * 2);
    for (int i = 0; i < oldRows.length; i++) {
      if (oldRows[i] != NONE) {
        int slot = slot(oldFirsts[i], oldSeconds[i]);
        firsts[slot] = oldFirsts[i];
        seconds[slot] = oldSeconds[i];
        rows[slot] = oldRows[i];
      }
    }
  }
}
