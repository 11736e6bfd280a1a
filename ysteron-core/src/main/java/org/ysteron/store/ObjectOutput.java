package org.ysteron.store;

import java.io.OutputStream;

/** An object that is being written. It is seen by nobody before {@link #commit()}. */
public abstract class ObjectOutput extends OutputStream {

  /** Bytes written so far. */
  public abstract long position();

  /** Makes the object visible, whole and durable. */
  public abstract void commit();

  /** Gives up what was not committed and leaves nothing behind; after a commit does nothing. */
  @Override
  public abstract void close();
}
