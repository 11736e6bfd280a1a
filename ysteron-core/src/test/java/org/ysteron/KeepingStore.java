package org.ysteron;

import java.util.List;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;

/** A store that remembers all that ever was in it, also when that is deleted. */
final class KeepingStore extends ForwardingStore {
  private final MemoryStore ever = new MemoryStore();

  KeepingStore() {
    super(new MemoryStore());
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    boolean created = super.createIfAbsent(name, content);
    if (created) {
      ever.createIfAbsent(name, content); // what a sleeper puts where something was is not told
    }
    return created;
  }

  @Override
  public ObjectOutput put(String name) {
    return new ForwardingOutput(super.put(name)) {
      @Override
      public void commit() {
        super.commit();
        ever.createIfAbsent(name, KeepingStore.super.read(name));
      }
    };
  }

  /** Everything as it was when some entry was the newest. */
  ForwardingStore upTo(long entry) {
    return new ForwardingStore(ever) {
      private boolean isLater(String name) {
        return name.startsWith("floor")
            || (name.matches("ledger/.*[0-9]")
                && Long.parseLong(name.replaceAll("[a-z/]", "")) > entry);
      }

      private void check(String name) {
        if (isLater(name)) {
          throw new MissingObjectException(name, location());
        }
      }

      @Override
      public byte[] read(String name) {
        check(name);
        return super.read(name);
      }

      @Override
      public ObjectInput open(String name) {
        check(name);
        return super.open(name);
      }

      @Override
      public byte[] readRange(String name, long offset, int length) {
        check(name);
        return super.readRange(name, offset, length);
      }

      @Override
      public List<Child> list(String directory, String after, int limit) {
        return super.list(directory, after, limit).stream()
            .filter(child -> child.directory() || !isLater(directory + "/" + child.segment()))
            .toList();
      }
    };
  }
}
