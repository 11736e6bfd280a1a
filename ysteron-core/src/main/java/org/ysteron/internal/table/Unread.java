package org.ysteron.internal.table;

import java.util.Arrays;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * What a later program put at the end of a record. It is kept as it is when the record is written
 * again. Immutable.
 */
final class Unread {
  static final Unread NOTHING = new Unread(new byte[0]);

  private final byte[] bytes;

  private Unread(byte[] bytes) {
    this.bytes = bytes;
  }

  /** The rest of a record. */
  static Unread rest(ByteIn in) {
    return in.remaining() == 0 ? NOTHING : new Unread(in.raw(in.remaining()));
  }

  void write(ByteOut out) {
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
