package org.ysteron.internal.table;

import java.util.Arrays;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * What a later program put at the end of a record. It is kept as it is when the record is written
 * again. Immutable.
 */
public final class Unread {
  public static final Unread NOTHING = new Unread(new byte[0]);

  private final byte[] bytes;

  private Unread(byte[] bytes) {
    this.bytes = bytes;
  }

  /** The rest of a record. */
  public static Unread rest(ByteIn in) {
    return in.remaining() == 0 ? NOTHING : new Unread(in.raw(in.remaining()));
  }

  /** Whether it put nothing there. */
  public boolean isNothing() {
    return bytes.length == 0;
  }

  public void write(ByteOut out) {
    out.raw(bytes);
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof Unread unread && Arrays.equals(bytes, unread.bytes);
  }

  @Override
  public int hashCode() {
    return Arrays.hashCode(bytes);
  }
}
