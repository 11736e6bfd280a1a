package org.ysteron.internal.write;

/** So few bytes of rows are kept apart by part in memory that tests reach it; 0 for the usual. */
public final class BufferLimit implements AutoCloseable {
  public BufferLimit(long bytes) {
    PartitionBuffer.limitTo(bytes);
  }

  @Override
  public void close() {
    PartitionBuffer.limitTo(0);
  }
}
