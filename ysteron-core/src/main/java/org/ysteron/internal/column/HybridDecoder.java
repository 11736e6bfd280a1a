package org.ysteron.internal.column;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import java.util.Arrays;
import org.ysteron.error.DamagedException;

/**
 * Decodes Parquet's hybrid of run lengths and bit packing (Encodings.md of the format, "RLE = 3")
 * in bulk. For one thread.
 */
final class HybridDecoder {
  private static final VarHandle LONGS =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.LITTLE_ENDIAN);

  private final byte[] bytes;
  private final int end;
  private final int width;
  private final long mask;
  private int position;
  private int runLeft;
  private boolean packed;
  private int runValue;
  private long bit;

  HybridDecoder(byte[] bytes, int start, int end, int width) {
    this.bytes = bytes;
    this.position = start;
    this.end = end;
    this.width = width;
    this.mask = (1L << width) - 1;
    if (width > 32) {
      throw new DamagedException("A page packs numbers of " + width + " bits.");
    }
  }

  private void nextRun() {
    if (width == 0) {
      runLeft = Integer.MAX_VALUE;
      packed = false;
      runValue = 0;
      return;
    }
    int header = varint();
    packed = (header & 1) == 1;
    if (packed) {
      runLeft = (header >>> 1) * 8;
      bit = (long) position * 8;
      position = (int) Math.min(end, position + (long) (header >>> 1) * width);
    } else {
      runLeft = header >>> 1;
      runValue = 0;
      for (int i = 0; i < (width + 7) / 8; i++) {
        runValue |= next() << (8 * i);
      }
    }
    if (runLeft <= 0) {
      throw new DamagedException("A page has an empty run.");
    }
  }

  private int next() {
    if (position >= end) {
      throw new DamagedException("A page ends before its last value.");
    }
    return bytes[position++] & 0xff;
  }

  private int varint() {
    int value = 0;
    for (int shift = 0; shift < 35; shift += 7) {
      int b = next();
      value |= (b & 0x7f) << shift;
      if ((b & 0x80) == 0) {
        return value;
      }
    }
    throw new DamagedException("A page has a run of impossible length.");
  }

  /** Decodes the next {@code count} values. */
  void read(int[] target, int start, int count) {
    int at = start;
    int rest = count;
    while (rest > 0) {
      if (runLeft == 0) {
        nextRun();
      }
      int take = Math.min(rest, runLeft);
      if (packed) {
        unpack(target, at, take);
      } else {
        Arrays.fill(target, at, at + take, runValue);
      }
      runLeft -= take;
      at += take;
      rest -= take;
    }
  }

  /**
   * Decodes some of the next {@code count} values, each to its own place.
   *
   * @param start the place of the first of the next values
   * @param rows the places that are wanted, ascending
   * @param from the first of {@code rows} that is not before {@code start}
   * @param to behind the last that is one of the next values
   */
  void readAt(int[] target, int start, int count, int[] rows, int from, int to) {
    int at = start;
    int next = from;
    int rest = count;
    while (rest > 0) {
      if (runLeft == 0) {
        nextRun();
      }
      int take = Math.min(rest, runLeft);
      int end = at + take;
      if (packed) {
        need(take);
        long safe = ((long) bytes.length - 8) * 8;
        for (; next < to && rows[next] < end; next++) {
          long place = bit + (long) width * (rows[next] - at);
          target[rows[next]] = place <= safe ? fast(place) : slow(place);
        }
        bit += (long) width * take;
      } else {
        for (; next < to && rows[next] < end; next++) {
          target[rows[next]] = runValue;
        }
      }
      runLeft -= take;
      at = end;
      rest -= take;
    }
  }

  /** Refuses values of a packed run that lie behind the end of the bytes. */
  private void need(int count) {
    if (bit + (long) width * count > (long) end * 8) {
      throw new DamagedException("A page ends before its last value.");
    }
  }

  /** Skips the next {@code count} values, whatever they are. */
  void skip(int count) {
    int rest = count;
    while (rest > 0) {
      if (runLeft == 0) {
        nextRun();
      }
      int take = Math.min(rest, runLeft);
      if (packed) {
        bit += (long) width * take;
      }
      runLeft -= take;
      rest -= take;
    }
  }

  /** Skips {@code count} values if they are all {@code value} and lie in one run. */
  boolean skipRunOf(int value, int count) {
    if (runLeft == 0) {
      nextRun();
    }
    if (packed || runValue != value || runLeft < count) {
      return false;
    }
    runLeft -= count;
    return true;
  }

  private void unpack(int[] target, int start, int count) {
    need(count);
    long at = bit;
    int i = start;
    int to = start + count;
    long safe = ((long) bytes.length - 8) * 8;
    if (width <= 7) {
      for (; i <= to - 8 && at <= safe; i += 8, at += 8L * width) {
        long word = (long) LONGS.get(bytes, (int) (at >>> 3)) >>> (at & 7);
        four(word, target, i);
        four(word >>> (4 * width), target, i + 4);
      }
    } else if (width <= 14) {
      for (; i <= to - 4 && at <= safe; i += 4, at += 4L * width) {
        four((long) LONGS.get(bytes, (int) (at >>> 3)) >>> (at & 7), target, i);
      }
    }
    for (; i < to && at <= safe; i++, at += width) {
      target[i] = fast(at);
    }
    for (; i < to; i++, at += width) {
      target[i] = slow(at);
    }
    bit = at;
  }

  /** Four values of one word: with what lies before them in its first byte 63 bits at most. */
  private void four(long word, int[] target, int at) {
    target[at] = (int) (word & mask);
    target[at + 1] = (int) ((word >>> width) & mask);
    target[at + 2] = (int) ((word >>> (2 * width)) & mask);
    target[at + 3] = (int) ((word >>> (3 * width)) & mask);
  }

  /** The value at a bit behind which there are eight bytes. */
  private int fast(long at) {
    return (int) (((long) LONGS.get(bytes, (int) (at >>> 3)) >>> (at & 7)) & mask);
  }

  private int slow(long at) {
    long word = 0;
    int first = (int) (at >>> 3);
    for (int b = 0; b < 8 && first + b < bytes.length; b++) {
      word |= (bytes[first + b] & 0xffL) << (8 * b);
    }
    return (int) ((word >>> (at & 7)) & mask);
  }
}
