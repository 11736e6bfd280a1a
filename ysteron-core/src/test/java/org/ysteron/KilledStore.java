package org.ysteron;

import java.util.List;
import java.util.function.Consumer;
import java.util.function.Predicate;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/** Ends the process that uses it at one of its calls, before the call or after it. */
final class KilledStore extends ForwardingStore {
  private static final int MOST_CALLS = 10_000;

  private final boolean isAfter;
  private int left;
  private int calls;

  /** The process is dead. */
  static final class Killed extends Error {
    private static final long serialVersionUID = 1L;
  }

  /** {@code calls}: how many are let through. */
  KilledStore(ObjectStore store, int calls, boolean isAfter) {
    super(store);
    this.left = calls;
    this.isAfter = isAfter;
  }

  int calls() {
    return calls;
  }

  /** Does work whose process is killed, each time a call later, until a lake is as is wanted. */
  static void workUntil(ObjectStore store, Consumer<Lake> work, Predicate<Lake> wanted) {
    for (int calls = 1; calls < MOST_CALLS; calls++) {
      KilledStore dying = new KilledStore(store, calls, true);
      try (Lake lake = Lake.open(dying, LakeOptions.DEFAULTS.threads(0))) {
        work.accept(lake);
      } catch (Killed e) {
        try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(0))) {
          if (wanted.test(lake)) {
            return;
          }
        }
      }
    }
    throw new AssertionError("the lake was never so");
  }

  private interface Call<T> {
    T run();
  }

  private <T> T call(Call<T> call) {
    if (left < 0) {
      throw new Killed(); // a dead process cleans nothing up
    }
    calls++;
    left--;
    if (left < 0 && !isAfter) {
      throw new Killed();
    }
    T result = call.run();
    if (left < 0) {
      throw new Killed();
    }
    return result;
  }

  private void call(Runnable call) {
    call(
        () -> {
          call.run();
          return null;
        });
  }

  @Override
  public byte[] read(String name) {
    return call(() -> super.read(name));
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    return call(() -> super.readRange(name, offset, length));
  }

  @Override
  public ObjectInput open(String name) {
    return call(() -> super.open(name));
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    return call(() -> super.list(directory, after, limit));
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    return call(() -> super.createIfAbsent(name, content));
  }

  @Override
  public void delete(String name) {
    call(() -> super.delete(name));
  }

  @Override
  public ObjectOutput put(String name) {
    return new ForwardingOutput(call(() -> super.put(name))) {
      @Override
      public void commit() {
        call(() -> super.commit());
      }
    };
  }
}
