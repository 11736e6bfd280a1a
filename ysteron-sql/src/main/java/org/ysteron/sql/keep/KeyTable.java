package org.ysteron.sql.keep;

import java.util.Arrays;

/**
 * Numbers keys of some words of 64 bits, in the order in which they come, from 0 on: an open hash
 * table with linear probing (Knuth, The Art of Computer Programming 3, 6.4). For one thread.
 */
public final class KeyTable {
  private static final int FEWEST = 1 << 10;

  private final int words;
  private final Running running;
  private int[] slots = new int[2 * FEWEST];
  private long[] keys;
  private int count;

  public KeyTable(int words, Running running) {
    this.words = words;
    this.running = running;
    this.keys = new long[Math.max(1, words) * FEWEST];
    Arrays.fill(slots, -1);
    running.take(bytes());
  }

  private long bytes() {
    return 4L * slots.length + 8L * keys.length;
  }

  public int count() {
    return count;
  }

  /** A word of the key of a number. */
  public long word(int number, int word) {
    return keys[number * words + word];
  }

  /**
   * Finds the numbers of keys.
   *
   * @param key the words, each for all keys
   * @param adds whether keys that are new get a number; else they have -1
   */
  public void find(long[][] key, int size, int[] numbers, boolean adds) {
    if (words == 0) {
      count = adds ? 1 : count;
      Arrays.fill(numbers, 0, size, count == 0 ? -1 : 0);
    } else if (words == 1) {
      findOne(key[0], size, numbers, adds);
    } else {
      findMany(key, size, numbers, adds);
    }
  }

  private static int mixed(long word) {
    long mixed = word * 0x9E3779B97F4A7C15L;
    return (int) (mixed >>> 32) ^ (int) (mixed >>> 15);
  }

  private void findOne(long[] key, int size, int[] numbers, boolean adds) {
    for (int i = 0; i < size; i++) {
      long word = key[i];
      int at = mixed(word) & (slots.length - 1);
      int number = slots[at];
      while (number >= 0 && keys[number] != word) {
        at = (at + 1) & (slots.length - 1);
        number = slots[at];
      }
      if (number < 0 && adds) {
        number = add(at);
        keys[number] = word;
        growIfFull();
      }
      numbers[i] = number;
    }
  }

  private static long joined(long hash, long word) {
    return ((hash ^ word) * 0x9E3779B97F4A7C15L) ^ (hash >>> 29);
  }

  private void findMany(long[][] key, int size, int[] numbers, boolean adds) {
    for (int i = 0; i < size; i++) {
      long hash = 0;
      for (int w = 0; w < words; w++) {
        hash = joined(hash, key[w][i]);
      }
      int at = mixed(hash) & (slots.length - 1);
      int number = slots[at];
      while (number >= 0 && !isAt(number, key, i)) {
        at = (at + 1) & (slots.length - 1);
        number = slots[at];
      }
      if (number < 0 && adds) {
        number = add(at);
        for (int w = 0; w < words; w++) {
          keys[number * words + w] = key[w][i];
        }
        growIfFull();
      }
      numbers[i] = number;
    }
  }

  private boolean isAt(int number, long[][] key, int i) {
    int from = number * words;
    for (int w = 0; w < words; w++) {
      if (keys[from + w] != key[w][i]) {
        return false;
      }
    }
    return true;
  }

  private int add(int slot) {
    int number = count++;
    if (count * words > keys.length) {
      running.take(8L * keys.length);
      keys = Arrays.copyOf(keys, Math.multiplyExact(2, keys.length));
    }
    slots[slot] = number;
    return number;
  }

  private void growIfFull() {
    if (2 * count < slots.length) {
      return;
    }
    running.take(4L * slots.length);
    int[] more = new int[Math.multiplyExact(2, slots.length)];
    Arrays.fill(more, -1);
    for (int number = 0; number < count; number++) {
      int at = hash(number) & (more.length - 1);
      while (more[at] >= 0) {
        at = (at + 1) & (more.length - 1);
      }
      more[at] = number;
    }
    slots = more;
  }

  private int hash(int number) {
    if (words == 1) {
      return mixed(keys[number]);
    }
    long hash = 0;
    for (int w = 0; w < words; w++) {
      hash = joined(hash, keys[number * words + w]);
    }
    return mixed(hash);
  }
}
