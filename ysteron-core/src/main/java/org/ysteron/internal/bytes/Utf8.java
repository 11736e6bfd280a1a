package org.ysteron.internal.bytes;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;

/** Bytes that may be text. */
public final class Utf8 {
  private static final VarHandle EIGHT =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.nativeOrder());

  private static final long HIGH_BITS = 0x8080808080808080L;

  private Utf8() {}

  /** Whether all bytes from a start up to an end are characters of ASCII. */
  public static boolean isAscii(byte[] bytes, int start, int end) {
    int at = start;
    for (; at + Long.BYTES <= end; at += Long.BYTES) {
      if (((long) EIGHT.get(bytes, at) & HIGH_BITS) != 0) {
        return false;
      }
    }
    while (at < end && bytes[at] >= 0) {
      at++;
    }
    return at == end;
  }

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
