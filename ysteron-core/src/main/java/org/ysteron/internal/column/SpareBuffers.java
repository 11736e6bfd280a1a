package org.ysteron.internal.column;

import java.nio.ByteBuffer;
import org.apache.parquet.bytes.ByteBufferAllocator;
import org.ysteron.internal.bytes.SpareBytes;

/** Buffers for column chunks, on arrays that serve again when they are released. Thread-safe. */
public final class SpareBuffers implements ByteBufferAllocator {
  public static final SpareBuffers SHARED = new SpareBuffers();

  private SpareBuffers() {}

  @Override
  public ByteBuffer allocate(int size) {
    return ByteBuffer.wrap(SpareBytes.take(size)).limit(size);
  }

  @Override
  public void release(ByteBuffer buffer) {
    if (buffer.arrayOffset() == 0) { // as all that were allocated here
      SpareBytes.give(buffer.array());
    }
  }

  @Override
  public boolean isDirect() {
    return false;
  }
}
