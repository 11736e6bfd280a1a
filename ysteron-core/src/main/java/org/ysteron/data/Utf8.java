package org.ysteron.data;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;

/** Bytes that may be text. */
public final class Utf8 {
  private Utf8() {}

  /** Whether bytes are UTF-8 as RFC 3629 has it: whole characters, each in its shortest form. */
  public static boolean isWhole(byte[] bytes, int start, int length) {
    int at = start;
    int end = start + length;
    while (at < end && bytes[at] >= 0) {
      at++;
    }
    if (at == end) {
      return true;
    }
    try {
      StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(bytes, at, end - at));
      return true;
    } catch (CharacterCodingException e) {
      return false;
    }
  }
}
