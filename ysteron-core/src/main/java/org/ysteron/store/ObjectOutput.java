package org.ysteron.store;

import java.io.OutputStream;

/** An object that is being written. It is invisible before {@link #commit()}. */
public abstract class ObjectOutput extends OutputStream {

  /** Bytes written so far. */
  public abstract long position();

  /** Makes the object visible, whole and durable. */
  public abstract void commit();

  /** Discards what was not committed; does nothing after a commit. */
  @Override
  public abstract void close();
}
