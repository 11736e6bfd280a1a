package org.ysteron.internal.file;

import org.ysteron.error.DamagedException;

/**
 * Walks over a struct in the <a
 * href="https://github.com/apache/thrift/blob/master/doc/specs/thrift-compact-protocol.md">compact
 * protocol</a>, in which Parquet writes its footers and indexes, and compares the lengths in it
 * with the bytes there are: the library makes lists as long as they claim to be. For one thread.
 */
final class ThriftLimits {
  private static final int MOST_DEPTH = 40;
  private static final int LONG_LIST = 15;

  private final byte[] bytes;
  private int at;

  private ThriftLimits(byte[] bytes) {
    this.bytes = bytes;
  }

  /** Refuses a struct that claims more than there is. */
  static void check(byte[] struct) {
    new ThriftLimits(struct).struct(0);
  }

  private void struct(int depth) {
    for (int header = next(); header != 0; header = next()) {
      if (header >> 4 == 0) {
        varint(); // the field's number
      }
      value(header & 15, depth, true);
    }
  }

  private void value(int type, int depth, boolean inStruct) {
    if (depth > MOST_DEPTH) {
      throw wrong("nests too deep");
    }
    switch (type) {
      case 1, 2 -> skip(inStruct ? 0 : 1); // a boolean in a struct is its type
      case 3 -> skip(1);
      case 4, 5, 6 -> varint();
      case 7 -> skip(8);
      case 8 -> skip(varint());
      case 9, 10 -> list(depth);
      case 11 -> map(depth);
      case 12 -> struct(depth + 1);
      case 13 -> skip(16);
      default -> throw wrong("has the unknown type " + type);
    }
  }

  private void list(int depth) {
    int header = next();
    long size = header >> 4 == LONG_LIST ? varint() : header >> 4;
    claim(size);
    for (long i = 0; i < size; i++) {
      value(header & 15, depth + 1, false);
    }
  }

  private void map(int depth) {
    long size = varint();
    claim(size);
    int types = size == 0 ? 0 : next();
    for (long i = 0; i < size; i++) {
      value(types >> 4, depth + 1, false);
      value(types & 15, depth + 1, false);
    }
  }

  /** Every element has a byte at least. */
  private void claim(long size) {
    if (size < 0 || size > bytes.length - at) {
      throw wrong("claims %d elements in %d bytes".formatted(size, bytes.length - at));
    }
  }

  private void skip(long count) {
    claim(count);
    at += (int) count;
  }

  private int next() {
    claim(1);
    return bytes[at++] & 0xff;
  }

  private long varint() {
    long value = 0;
    for (int shift = 0; shift < 64; shift += 7) {
      int next = next();
      value |= (next & 0x7fL) << shift;
      if (next < 0x80) {
        return value;
      }
    }
    throw wrong("has a number of more than ten bytes");
  }

  private static DamagedException wrong(String what) {
    return new DamagedException("The Parquet metadata of a data file " + what + ".");
  }
}
