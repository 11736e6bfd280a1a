package org.ysteron.bench;

import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/**
 * Counts the bytes of the objects that are created, and how often data files are opened; closing it
 * keeps the store open.
 */
final class CountingStore extends ForwardingStore {
  private final AtomicLong written = new AtomicLong();
  private final AtomicLong opened = new AtomicLong();

  CountingStore(ObjectStore target) {
    super(target);
  }

  long bytesWritten() {
    return written.get();
  }

  /** How often a data file was opened so far. */
  long opened() {
    return opened.get();
  }

  @Override
  public ObjectInput open(String name) {
    opened.addAndGet(name.startsWith("data/") ? 1 : 0);
    return super.open(name);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    boolean made = super.createIfAbsent(name, content);
    written.addAndGet(made ? content.length : 0);
    return made;
  }

  @Override
  public void close() {}
}
