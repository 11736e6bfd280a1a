package org.ysteron.internal.text;

/** Characters (code points) in bytes of UTF-8 that are known to be valid. */
public final class Characters {
  private Characters() {}

  /** How many bytes the character that starts with a byte has. */
  public static int width(byte first) {
    return first >= 0 ? 1 : (first & 0xe0) == 0xc0 ? 2 : (first & 0xf0) == 0xe0 ? 3 : 4;
  }

  /** How many characters there are. */
  public static int count(byte[] data, int start, int length) {
    int count = 0;
    for (int i = start; i < start + length; i++) {
      count += (data[i] & 0xc0) != 0x80 ? 1 : 0;
    }
    return count;
  }

  /** Where so many characters end, or the end. */
  public static int skip(byte[] data, int from, int end, long characters) {
    int at = from;
    for (long left = characters; left > 0 && at < end; left--) {
      at += width(data[at]);
    }
    return Math.min(at, end);
  }

  /** The character at a place. */
  public static int at(byte[] data, int at) {
    byte first = data[at];
    return switch (width(first)) {
      case 1 -> first;
      case 2 -> (first & 0x1f) << 6 | (data[at + 1] & 0x3f);
      case 3 -> (first & 0x0f) << 12 | (data[at + 1] & 0x3f) << 6 | (data[at + 2] & 0x3f);
      default ->
          (first & 0x07) << 18
              | (data[at + 1] & 0x3f) << 12
              | (data[at + 2] & 0x3f) << 6
              | (data[at + 3] & 0x3f);
    };
  }

  /** Writes a character and returns where it ends. */
  public static int put(int c, byte[] to, int at) {
    if (c < 0x80) {
      to[at] = (byte) c;
      return at + 1;
    }
    if (c < 0x800) {
      to[at] = (byte) (0xc0 | c >> 6);
      to[at + 1] = (byte) (0x80 | (c & 0x3f));
      return at + 2;
    }
    if (c < 0x10000) {
      to[at] = (byte) (0xe0 | c >> 12);
      to[at + 1] = (byte) (0x80 | (c >> 6 & 0x3f));
      to[at + 2] = (byte) (0x80 | (c & 0x3f));
      return at + 3;
    }
    to[at] = (byte) (0xf0 | c >> 18);
    to[at + 1] = (byte) (0x80 | (c >> 12 & 0x3f));
    to[at + 2] = (byte) (0x80 | (c >> 6 & 0x3f));
    to[at + 3] = (byte) (0x80 | (c & 0x3f));
    return at + 4;
  }

  /** Where some bytes are within others, or -1. */
  public static int find(byte[] data, int from, int end, byte[] what, int start, int length) {
    for (int at = from; at <= end - length; at++) {
      if (same(data, at, what, start, length)) {
        return at;
      }
    }
    return -1;
  }

  public static boolean same(byte[] data, int at, byte[] what, int start, int length) {
    for (int i = 0; i < length; i++) {
      if (data[at + i] != what[start + i]) {
        return false;
      }
    }
    return true;
  }
}
