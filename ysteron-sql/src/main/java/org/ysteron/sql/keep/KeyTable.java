package org.ysteron.sql.keep;

import java.util.Arrays;

/**
 * Numbers keys of some words of 64 bits, in the order in which they come, from 0 on: an open hash
 * table with linear probing (Knuth, The Art of Computer Programming 3, 6.4). For one thread.
 */
public final class KeyTable {
  private static final int FEWEST = 1 << 10;
  private static final long MIX = 0x9E3779B97F4A7C15L; // 2^64 divided by the golden ratio, odd

  private final int words;
  private final Running running;
  private int[] slots = new int[2 * FEWEST];
  private int shift = Long.SIZE - Integer.numberOfTrailingZeros(2 * FEWEST);
  private long[] keys;
  private int count;
  private int ofNull = -1;

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

  /** The number of the key that is null, of one word; -1 when there is none. */
  public int ofNull() {
    return ofNull;
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

  private int slot(long hash) {
    long folded = hash ^ (hash >>> 32);
    return (int) ((folded * MIX) >>> shift);
  }

  private void findOne(long[] key, int size, int[] numbers, boolean adds) {
    int i = 0;
    while (i < size) {
      i = findKnown(key, i, size, numbers);
      if (i < size) {
        numbers[i] = adds ? addOne(key[i]) : -1;
        i++;
      }
    }
  }

  /** Finds keys up to the first one that has no number; its place. */
  private int findKnown(long[] key, int from, int size, int[] numbers) {
    int[] inSlots = slots;
    long[] known = keys;
    int mask = inSlots.length - 1;
    int by = shift;
    for (int i = from; i < size; i++) {
      long word = key[i];
      int at = (int) (((word ^ (word >>> 32)) * MIX) >>> by);
      int number = inSlots[at];
      while (number >= 0 && known[number] != word) {
        at = (at + 1) & mask;
        number = inSlots[at];
      }
      if (number < 0) {
        return i;
      }
      numbers[i] = number;
    }
    return size;
  }

  private int addOne(long word) {
    int at = slot(word);
    while (slots[at] >= 0) {
      at = (at + 1) & (slots.length - 1);
    }
    int number = add();
    slots[at] = number;
    keys[number] = word;
    growIfFull();
    return number;
  }

  /**
   * Finds the numbers of keys of one word, of which some are null.
   *
   * @param isNull whether a key is null
   */
  public void findOne(long[] key, boolean[] isNull, int size, int[] numbers, boolean adds) {
    int[] one = new int[1];
    long[] word = new long[1];
    for (int i = 0; i < size; i++) {
      if (isNull[i]) {
        ofNull = ofNull < 0 && adds ? add() : ofNull;
        numbers[i] = ofNull;
      } else {
        word[0] = key[i];
        findOne(word, 1, one, adds);
        numbers[i] = one[0];
      }
    }
  }

  private static long joined(long hash, long word) {
    return ((hash ^ word) * MIX) ^ (hash >>> 29);
  }

  private void findMany(long[][] key, int size, int[] numbers, boolean adds) {
    for (int i = 0; i < size; i++) {
      long hash = 0;
      for (int w = 0; w < words; w++) {
        hash = joined(hash, key[w][i]);
      }
      int at = slot(hash);
      int number = slots[at];
      while (number >= 0 && !isAt(number, key, i)) {
        at = (at + 1) & (slots.length - 1);
        number = slots[at];
      }
      if (number < 0 && adds) {
        number = add();
        slots[at] = number;
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

  private int add() {
    int number = count++;
    if (count * words > keys.length) {
      running.take(8L * keys.length);
      keys = Arrays.copyOf(keys, Math.multiplyExact(2, keys.length));
    }
    return number;
  }

  private void growIfFull() {
    if (2 * count < slots.length) {
      return;
    }
    running.take(4L * slots.length);
    int[] more = new int[Math.multiplyExact(2, slots.length)];
    shift--;
    Arrays.fill(more, -1);
    for (int number = 0; number < count; number++) {
      if (number == ofNull) {
        continue;
      }
      int at = slot(hash(number));
      while (more[at] >= 0) {
        at = (at + 1) & (more.length - 1);
      }
      more[at] = number;
    }
    slots = more;
  }

  private long hash(int number) {
    if (words == 1) {
      return keys[number];
    }
    long hash = 0;
    for (int w = 0; w < words; w++) {
      hash = joined(hash, keys[number * words + w]);
    }
    return hash;
  }
}
