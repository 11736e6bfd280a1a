package org.ysteron.store;

import java.io.Closeable;
import java.nio.ByteBuffer;

/** Range reads over one object. Safe for many threads. */
public interface ObjectInput extends Closeable {

  /** The object's size in bytes. */
  long size();

  /**
   * Fills the rest of {@code target} with the bytes from {@code offset} on.
   *
   * @throws StoreException when the object ends before that
   */
  void readFully(long offset, ByteBuffer target);

  /** Reads {@code length} bytes from {@code offset} on. */
  default byte[] read(long offset, int length) {
    byte[] bytes = new byte[length];
    readFully(offset, ByteBuffer.wrap(bytes));
    return bytes;
  }

  @Override
  void close();
}
