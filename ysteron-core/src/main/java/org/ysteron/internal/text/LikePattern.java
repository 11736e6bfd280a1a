package org.ysteron.internal.text;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.OptionalInt;

/**
 * A pattern of LIKE, cut at its {@code %} into pieces, each of which is found as early as can be
 * behind the one before. So a text is passed over once for each piece at most, whatever the
 * pattern. Immutable.
 */
public final class LikePattern {
  /** Stands for any one character; no byte of UTF-8. */
  private static final byte ANY = (byte) 0xff;

  private final List<byte[]> pieces = new ArrayList<>();
  private final boolean openStart;
  private final boolean openEnd;

  /** A pattern; {@code escape} is the character behind which one is meant as it is. */
  public LikePattern(String pattern, OptionalInt escape) {
    ByteArrayOutputStream piece = new ByteArrayOutputStream();
    int[] characters = pattern.codePoints().toArray();
    boolean start = false;
    boolean end = false;
    for (int i = 0; i < characters.length; i++) {
      int c = characters[i];
      boolean escaped = escape.isPresent() && c == escape.getAsInt();
      end = !escaped && c == '%';
      if (end) {
        start |= i == 0;
        if (piece.size() > 0) {
          pieces.add(piece.toByteArray());
          piece.reset();
        }
      } else if (!escaped && c == '_') {
        piece.write(ANY);
      } else {
        int meant = escaped ? characters[++i] : c;
        piece.writeBytes(Character.toString(meant).getBytes(StandardCharsets.UTF_8));
      }
    }
    if (piece.size() > 0) {
      pieces.add(piece.toByteArray());
    }
    this.openStart = start;
    this.openEnd = end;
  }

  /** Whether some bytes of UTF-8 have the form of the pattern. */
  public boolean matches(byte[] data, int start, int length) {
    int end = start + length;
    if (pieces.isEmpty()) {
      return openStart || length == 0;
    }
    int first = 0;
    int at = start;
    int last = pieces.size() - (openEnd ? 0 : 1);
    if (!openStart) {
      if (!openEnd && pieces.size() == 1) {
        return match(pieces.get(0), data, start, end) == end;
      }
      at = match(pieces.get(0), data, start, end);
      if (at < 0) {
        return false;
      }
      first = 1;
    }
    for (int p = first; p < last; p++) {
      at = find(pieces.get(p), data, at, end);
      if (at < 0) {
        return false;
      }
    }
    return openEnd || endsWith(pieces.get(last), data, at, end);
  }

  /** Where a piece that begins at a place ends, or -1. */
  private static int match(byte[] piece, byte[] data, int from, int end) {
    int at = from;
    for (byte b : piece) {
      if (at >= end) {
        return -1;
      }
      if (b == ANY) {
        at += Characters.width(data[at]);
      } else if (data[at++] != b) {
        return -1;
      }
    }
    return at;
  }

  private static int find(byte[] piece, byte[] data, int from, int end) {
    for (int at = from; at < end; at += Characters.width(data[at])) {
      int behind = match(piece, data, at, end);
      if (behind >= 0) {
        return behind;
      }
    }
    return -1;
  }

  private static boolean endsWith(byte[] piece, byte[] data, int from, int end) {
    int at = end;
    for (int i = piece.length - 1; i >= 0; i--) {
      if (at <= from) {
        return false;
      }
      at--;
      if (piece[i] == ANY) {
        while ((data[at] & 0xc0) == 0x80) {
          at--;
        }
      } else if (data[at] != piece[i]) {
        return false;
      }
    }
    return at >= from;
  }
}
