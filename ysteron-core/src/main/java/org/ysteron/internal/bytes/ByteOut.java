package org.ysteron.internal.bytes;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;

/** A growing buffer of bytes in the encodings of {@code docs/format.md}. For one thread. */
public final class ByteOut {
  private byte[] bytes;
  private int size;

  public ByteOut() {
    this(256);
  }

  public ByteOut(int capacity) {
    bytes = new byte[capacity];
  }

  public int size() {
    return size;
  }

  /** This buffer, empty again. */
  public ByteOut clear() {
    size = 0;
    return this;
  }

  public byte[] toByteArray() {
    return Arrays.copyOf(bytes, size);
  }

  private void need(int more) {
    if (size + more > bytes.length) {
      bytes = Arrays.copyOf(bytes, Math.max(size + more, bytes.length * 2));
    }
  }

  public ByteOut u8(int value) {
    need(1);
    bytes[size++] = (byte) value;
    return this;
  }

  /** 8 bytes, least significant first. */
  public ByteOut fixed64(long value) {
    need(8);
    for (int i = 0; i < 8; i++) {
      bytes[size++] = (byte) (value >>> (8 * i));
    }
    return this;
  }

  /** Seven bits a byte, least significant first, the top bit set on all but the last. */
  public ByteOut varint(long value) {
    need(10);
    long rest = value;
    while ((rest & ~0x7fL) != 0) {
      bytes[size++] = (byte) (rest | 0x80);
      rest >>>= 7;
    }
    bytes[size++] = (byte) rest;
    return this;
  }

  /** A signed number as a varint, small magnitudes first. */
  public ByteOut signed(long value) {
    return varint((value << 1) ^ (value >> 63));
  }

  public ByteOut raw(byte[] content) {
    return raw(content, 0, content.length);
  }

  public ByteOut raw(byte[] content, int start, int length) {
    need(length);
    System.arraycopy(content, start, bytes, size, length);
    size += length;
    return this;
  }

  /** Length and bytes. */
  public ByteOut sized(byte[] content) {
    return varint(content.length).raw(content);
  }

  /** Length and bytes of another buffer. */
  public ByteOut sized(ByteOut other) {
    return varint(other.size).raw(other.bytes, 0, other.size);
  }

  public ByteOut text(String text) {
    return sized(text.getBytes(StandardCharsets.UTF_8));
  }

  /** Raw length, compressed length, one zstd frame. */
  public ByteOut zstd(byte[] content) {
    byte[] compressed = Compression.compress(content, 0, content.length);
    return varint(content.length).varint(compressed.length).raw(compressed);
  }

  /**
   * Whole numbers as their least one, a width in bits, and each one's distance from the least,
   * packed from the least significant bit of the first byte on.
   */
  public ByteOut packed(long[] values, int count) {
    long min = Long.MAX_VALUE;
    long max = Long.MIN_VALUE;
    for (int i = 0; i < count; i++) {
      min = Math.min(min, values[i]);
      max = Math.max(max, values[i]);
    }
    min = count == 0 ? 0 : min;
    int width = count == 0 ? 0 : 64 - Long.numberOfLeadingZeros(max - min);
    signed(min).u8(width);
    int total = (int) (((long) width * count + 7) / 8);
    need(total);
    long held = 0;
    int bits = 0;
    for (int i = 0; i < count && width > 0; i++) {
      long distance = values[i] - min;
      held |= distance << bits;
      int free = 64 - bits;
      bits += width;
      if (bits >= 64) {
        putLong(held, 8);
        bits -= 64;
        held = bits == 0 ? 0 : distance >>> free;
      }
    }
    putLong(held, (bits + 7) / 8);
    return this;
  }

  private void putLong(long value, int count) {
    need(count);
    for (int i = 0; i < count; i++) {
      bytes[size++] = (byte) (value >>> (8 * i));
    }
  }
}
