package org.ysteron.store;

import java.nio.ByteBuffer;

/**
 * Forwards every call to another input, for stores that wrap others. As thread-safe as the other.
 */
public class ForwardingInput implements ObjectInput {
  private final ObjectInput target;

  public ForwardingInput(ObjectInput target) {
    this.target = target;
  }

  @Override
  public long size() {
    return target.size();
  }

  @Override
  public void readFully(long offset, ByteBuffer into) {
    target.readFully(offset, into);
  }

  @Override
  public void close() {
    target.close();
  }
}
