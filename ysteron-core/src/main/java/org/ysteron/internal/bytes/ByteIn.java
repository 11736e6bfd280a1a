package org.ysteron.internal.bytes;

import com.github.luben.zstd.ZstdException;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import org.ysteron.error.DamagedException;

/** Reads what {@link ByteOut} wrote; whatever does not add up is damage. For one thread. */
public final class ByteIn {
  /** No page has a section larger than this; checked before anything is allocated. */
  private static final int LARGEST = 1 << 26;

  private final byte[] bytes;
  private final int end;
  private int position;

  public ByteIn(byte[] bytes) {
    this(bytes, 0, bytes.length);
  }

  public ByteIn(byte[] bytes, int start, int end) {
    this.bytes = bytes;
    this.position = start;
    this.end = end;
  }

  private void need(long count) {
    if (count < 0 || count > end - position) {
      throw new DamagedException(
          "A page ends after %d bytes; %d more were expected.".formatted(end, count));
    }
  }

  public int remaining() {
    return end - position;
  }

  /** The same bytes, read anew from here on. */
  public ByteIn copy() {
    return new ByteIn(bytes, position, end);
  }

  public int u8() {
    need(1);
    return bytes[position++] & 0xff;
  }

  public long fixed64() {
    need(8);
    long value = 0;
    for (int i = 0; i < 8; i++) {
      value |= (bytes[position++] & 0xffL) << (8 * i);
    }
    return value;
  }

  public long varint() {
    long value = 0;
    for (int shift = 0; shift < 64; shift += 7) {
      int next = u8();
      value |= (next & 0x7fL) << shift;
      if ((next & 0x80) == 0) {
        return value;
      }
    }
    throw new DamagedException("A page holds a number of more than ten bytes.");
  }

  /** A varint that must be a count or length no larger than a limit. */
  public int bounded(int limit) {
    long value = varint();
    if (value < 0 || value > limit) {
      throw new DamagedException(
          "A page holds the count %d where at most %d is possible.".formatted(value, limit));
    }
    return (int) value;
  }

  public long signed() {
    long value = varint();
    return (value >>> 1) ^ -(value & 1);
  }

  public byte[] raw(int length) {
    need(length);
    byte[] content = Arrays.copyOfRange(bytes, position, position + length);
    position += length;
    return content;
  }

  public byte[] sized() {
    return raw(bounded(LARGEST));
  }

  public String text() {
    return new String(sized(), StandardCharsets.UTF_8);
  }

  /** A part of this input as its own. */
  public ByteIn slice(int length) {
    need(length);
    position += length;
    return new ByteIn(bytes, position - length, position);
  }

  public byte[] zstd() {
    int rawLength = bounded(LARGEST);
    int length = bounded(LARGEST);
    need(length);
    byte[] content;
    try {
      content = Compression.decompress(bytes, position, length, rawLength);
    } catch (ZstdException e) {
      throw new DamagedException("A compressed section of a page cannot be read.", e);
    }
    if (content == null) {
      throw new DamagedException("A compressed section of a page has another length.");
    }
    position += length;
    return content;
  }

  /** Numbers written by {@link ByteOut#packed}. */
  public long[] packed(int count) {
    long min = signed();
    int width = u8();
    long total = ((long) width * count + 7) / 8;
    if (width > 64) {
      throw new DamagedException("A page packs numbers of " + width + " bits.");
    }
    need(total);
    long[] values = new long[count];
    if (width == 0) {
      Arrays.fill(values, min);
      return values;
    }
    long mask = width == 64 ? -1L : (1L << width) - 1;
    long bit = (long) position * 8;
    for (int i = 0; i < count; i++, bit += width) {
      int at = (int) (bit >>> 3);
      int shift = (int) (bit & 7);
      long value = word(at) >>> shift;
      if (shift + width > 64) {
        value |= (bytes[at + 8] & 0xffL) << (64 - shift);
      }
      values[i] = min + (value & mask);
    }
    position += (int) total;
    return values;
  }

  private long word(int at) {
    if (at + 8 <= bytes.length) {
      return (long) LONGS.get(bytes, at);
    }
    long value = 0;
    for (int i = 0; at + i < bytes.length; i++) {
      value |= (bytes[at + i] & 0xffL) << (8 * i);
    }
    return value;
  }

  private static final java.lang.invoke.VarHandle LONGS =
      java.lang.invoke.MethodHandles.byteArrayViewVarHandle(
          long[].class, java.nio.ByteOrder.LITTLE_ENDIAN);
}
