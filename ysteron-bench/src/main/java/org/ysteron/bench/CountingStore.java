package org.ysteron.bench;

import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectStore;

/** Counts the bytes of the objects that are created; closing it keeps the store open. */
final class CountingStore extends ForwardingStore {
  private final AtomicLong written = new AtomicLong();

  CountingStore(ObjectStore target) {
    super(target);
  }

  long bytesWritten() {
    return written.get();
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
