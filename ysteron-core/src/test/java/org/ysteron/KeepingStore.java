package org.ysteron;

import java.util.List;
import org.ysteron.internal.commit.StoreLedger;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/**
 * A store that remembers all that ever was in it, also when that is deleted, and in whose place a
 * copy of an earlier moment may be put.
 */
final class KeepingStore extends ForwardingStore {
  private final PlaceStore place;
  private MemoryStore ever = new MemoryStore();
  private int line;

  KeepingStore() {
    this(new PlaceStore(new MemoryStore()));
  }

  private KeepingStore(PlaceStore place) {
    super(place);
    this.place = place;
  }

  /** What is there at a moment, and what ever was there until then. */
  record Copy(MemoryStore now, MemoryStore ever) {}

  Copy copy() {
    return new Copy(copyOf(place.now), copyOf(ever));
  }

  private static MemoryStore copyOf(ObjectStore store) {
    MemoryStore copy = new MemoryStore();
    StoreContents.copy(store, copy);
    return copy;
  }

  /** From now on there is what a copy has, and what was written since has never been. */
  void putBack(Copy copy) {
    place.now = copy.now;
    ever = copy.ever;
    line++;
  }

  /** How often a copy was put back. */
  int line() {
    return line;
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
    int begun = line;
    return new ForwardingOutput(super.put(name)) {
      @Override
      public void commit() {
        super.commit();
        if (begun == line) {
          ever.createIfAbsent(name, KeepingStore.super.read(name));
        }
      }
    };
  }

  /** An entry that is deleted from the floor on was taken back by who was late. */
  @Override
  public void delete(String name) {
    super.delete(name);
    if (name.startsWith("ledger/")
        && Numbering.ofPath(name.substring("ledger/".length())) >= new StoreLedger(this).floor()) {
      ever.delete(name);
    }
  }

  /** Everything as it was when some entry was the newest. */
  ForwardingStore upTo(long entry) {
    return new ForwardingStore(ever) {
      private boolean isLater(String name) {
        return name.startsWith("floor")
            || (name.startsWith("ledger/")
                && Numbering.ofPath(name.substring("ledger/".length())) > entry);
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
