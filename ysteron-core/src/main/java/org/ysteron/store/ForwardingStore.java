package org.ysteron.store;

import java.time.Instant;
import java.util.List;

/**
 * Forwards every call to another store. A store that wraps others overrides the calls that it
 * changes. As thread-safe as the other store.
 */
public class ForwardingStore implements ObjectStore {
  private final ObjectStore target;

  public ForwardingStore(ObjectStore target) {
    this.target = target;
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
  public byte[] readRange(String name, long offset, int length) {
    return target.readRange(name, offset, length);
  }

  @Override
  public void settle(String name) {
    target.settle(name);
  }

  @Override
  public void makeRoot() {
    target.makeRoot();
  }

  @Override
  public Instant time() {
    return target.time();
  }

  @Override
  public List<Unfinished> unfinished(String directory) {
    return target.unfinished(directory);
  }

  @Override
  public void discard(Unfinished unfinished) {
    target.discard(unfinished);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    return target.createIfAbsent(name, content);
  }

  @Override
  public ObjectOutput put(String name) {
    return target.put(name);
  }

  @Override
  public void delete(String name) {
    target.delete(name);
  }

  /** Deletes one by one, so that an override of {@link #delete} sees each. */
  @Override
  public void deleteAll(List<String> names) {
    names.forEach(this::delete);
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
  public void close() {
    target.close();
  }
}
