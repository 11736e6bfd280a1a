package org.ysteron.store;

import java.io.IOException;

/** Forwards every call to another output, for stores that wrap others. */
public class ForwardingOutput extends ObjectOutput {
  private final ObjectOutput target;

  public ForwardingOutput(ObjectOutput target) {
    this.target = target;
  }

  @Override
  public void write(int one) throws IOException {
    target.write(one);
  }

  @Override
  public void write(byte[] bytes, int from, int length) throws IOException {
    target.write(bytes, from, length);
  }

  @Override
  public void flush() throws IOException {
    target.flush();
  }

  @Override
  public long position() {
    return target.position();
  }

  @Override
  public void commit() {
    target.commit();
  }

  @Override
  public void close() {
    target.close();
  }
}
