package org.ysteron.sql.keep;

import java.util.Arrays;
import net.openhft.hashing.LongHashFunction;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/**
 * Numbers different values of bytes, in the order in which they come, from 0 on. For one thread.
 */
public final class ByteTable {
  static final LongHashFunction HASH = LongHashFunction.xx3();
  private static final int FEWEST = 1 << 8;

  private final Running running;
  private int[] slots = new int[2 * FEWEST];
  private int[] hashes = new int[FEWEST];
  private int[] starts = new int[FEWEST];
  private int[] lengths = new int[FEWEST];
  private byte[] data = new byte[8 * FEWEST];
  private int used;
  private int count;

  public ByteTable(Running running) {
    this.running = running;
    Arrays.fill(slots, -1);
  }

  public int count() {
    return count;
  }

  /** The number of a value; -1 when it has none and gets none. */
  public int find(byte[] from, int start, int length, boolean adds) {
    int hash = (int) HASH.hashBytes(from, start, length);
    int at = hash & (slots.length - 1);
    int number = slots[at];
    while (number >= 0) {
      if (hashes[number] == hash
          && lengths[number] == length
          && Arrays.equals(
              data, starts[number], starts[number] + length, from, start, start + length)) {
        return number;
      }
      at = (at + 1) & (slots.length - 1);
      number = slots[at];
    }
    return adds ? add(from, start, length, hash, at) : -1;
  }

  private int add(byte[] from, int start, int length, int hash, int slot) {
    int number = count++;
    if (number == hashes.length) {
      running.take(12L * number);
      hashes = Arrays.copyOf(hashes, 2 * number);
      starts = Arrays.copyOf(starts, 2 * number);
      lengths = Arrays.copyOf(lengths, 2 * number);
    }
    int needed = Math.addExact(used, length);
    if (needed > data.length) {
      int more = Math.max(needed, (int) Math.min(Integer.MAX_VALUE - 8L, 2L * data.length));
      running.take((long) more - data.length);
      data = Arrays.copyOf(data, more);
    }
    System.arraycopy(from, start, data, used, length);
    hashes[number] = hash;
    starts[number] = used;
    lengths[number] = length;
    used = needed;
    slots[slot] = number;
    if (2 * count >= slots.length) {
      grow();
    }
    return number;
  }

  private void grow() {
    running.take(4L * slots.length);
    int[] more = new int[2 * slots.length];
    Arrays.fill(more, -1);
    for (int number = 0; number < count; number++) {
      int at = hashes[number] & (more.length - 1);
      while (more[at] >= 0) {
        at = (at + 1) & (more.length - 1);
      }
      more[at] = number;
    }
    slots = more;
  }

  /** The values of some numbers, of which those may be any that are null. */
  public Vector vector(Type type, int[] numbers, long[] nulls) {
    int[] from = new int[numbers.length];
    int[] size = new int[numbers.length];
    for (int i = 0; i < numbers.length; i++) {
      boolean isNull = nulls != null && (nulls[i >> 6] & (1L << i)) != 0;
      from[i] = isNull ? 0 : starts[numbers[i]];
      size[i] = isNull ? 0 : lengths[numbers[i]];
    }
    return new Vector.OfBytes(type, numbers.length, data, from, size, nulls);
  }
}
