package org.ysteron.bench;

import java.util.List;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/** Counts the bytes of the objects that are created; closing it keeps the store open. */
final class CountingStore implements ObjectStore {
  private final ObjectStore target;
  private final AtomicLong written = new AtomicLong();

  CountingStore(ObjectStore target) {
    this.target = target;
  }

  long bytesWritten() {
    return written.get();
  }

  @Override
  public byte[] read(String name) {
    return target.read(name);
  }

  @Override
  public ObjectInput open(String name) {
    return target.open(name);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    boolean made = target.createIfAbsent(name, content);
    written.addAndGet(made ? content.length : 0);
    return made;
  }

  @Override
  public ObjectOutput put(String name) {
    return target.put(name);
  }

  @Override
  public void delete(String name) {
    target.delete(name);
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    return target.list(directory, after, limit);
  }

  @Override
  public String location() {
    return target.location();
  }

  @Override
  public void close() {}
}
