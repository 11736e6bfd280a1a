package org.ysteron;

import java.util.List;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/** A store in whose place another may be from some moment on. */
final class PlaceStore extends ForwardingStore {
  ObjectStore now;

  PlaceStore(ObjectStore first) {
    super(first);
    now = first;
  }

  @Override
  public byte[] read(String name) {
    return now.read(name);
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    return now.readRange(name, offset, length);
  }

  @Override
  public ObjectInput open(String name) {
    return now.open(name);
  }

  @Override
  public List<Child> list(String path, String after, int limit) {
    return now.list(path, after, limit);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    return now.createIfAbsent(name, content);
  }

  @Override
  public ObjectOutput put(String name) {
    return now.put(name);
  }

  @Override
  public List<Unfinished> unfinished(String directory) {
    return now.unfinished(directory);
  }

  @Override
  public void discard(Unfinished unfinished) {
    now.discard(unfinished);
  }

  @Override
  public void delete(String name) {
    now.delete(name);
  }
}
