package org.ysteron;

import java.util.List;
import java.util.Random;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.NotAppliedException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.StoreException;

/**
 * One actor's view of the store they share: it fails before or after a call is applied, applies a
 * create later, and ends the actor's life, as a seed says.
 */
final class SimulatedStore extends ForwardingStore {
  private final KeepingStore shared;
  private final int line;
  private final SimulatedActors actors;
  private final SimulatedActors.Actor actor;
  private final Random random;
  private final int troubleIn1000;
  private boolean killed;
  private int outage;

  /** The actor's process was killed. */
  static final class Killed extends Error {
    private static final long serialVersionUID = 1L;
  }

  SimulatedStore(
      KeepingStore shared,
      SimulatedActors actors,
      SimulatedActors.Actor actor,
      Random random,
      int troubleIn1000) {
    super(shared);
    this.shared = shared;
    this.line = shared.line();
    this.actors = actors;
    this.actor = actor;
    this.random = random;
    this.troubleIn1000 = troubleIn1000;
  }

  boolean isKilled() {
    return killed;
  }

  /**
   * Whoever has seen the lake before it was put back from a copy takes back what he still writes,
   * if nothing keeps him from it.
   */
  private boolean trouble(int share) {
    return random.nextInt(1000) < troubleIn1000 / share && line == shared.line();
  }

  private void before(String call) {
    if (killed) {
      throw new Killed(); // a dead process cleans nothing up
    }
    actor.step();
    if (trouble(4)) {
      actor.tell("killed before " + call);
      killed = true;
      throw new Killed();
    }
  }

  private void reading(String call) {
    before(call);
    if (isOut() || trouble(3)) {
      actor.tell(call + " failed");
      throw new StoreException("simulated: " + call);
    }
  }

  @Override
  public byte[] read(String name) {
    reading("read " + name);
    return super.read(name);
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    reading("read of " + name);
    return super.readRange(name, offset, length);
  }

  @Override
  public void settle(String name) {
    reading("settle " + name);
    super.settle(name);
  }

  @Override
  public ObjectInput open(String name) {
    reading("open " + name);
    return super.open(name);
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    reading("list " + directory);
    return super.list(directory, after, limit);
  }

  @Override
  public void delete(String name) {
    reading("delete " + name);
    actor.tell("delete " + name);
    super.delete(name);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    String call = "create " + name;
    if (name.startsWith("ledger")) {
      actor.sleepPerhaps(20);
    }
    before(call);
    if (isOut()) {
      actor.tell(call + " had no reply");
      throw new StoreException("simulated: no reply to " + call);
    }
    if (trouble(1)) {
      return troubled(call, name, content);
    }
    boolean created = super.createIfAbsent(name, content);
    actor.tell(call + (created ? " done" : " taken"));
    if (trouble(4)) {
      actor.tell("killed after " + call);
      killed = true;
      throw new Killed();
    }
    return created;
  }

  /** Sometimes the store is gone for a while, so that a writer gives up asking. */
  private boolean isOut() {
    return outage > 0 && outage-- > 0 && line == shared.line();
  }

  private boolean troubled(String call, String name, byte[] content) {
    if (name.startsWith("ledger") && random.nextInt(3) == 0) {
      outage = 3 + random.nextInt(12);
    }
    switch (random.nextInt(5)) {
      case 0 -> {
        actor.tell(call + " refused");
        throw new NotAppliedException("simulated: refused " + call, null);
      }
      case 1 -> {
        actor.tell(call + " lost");
        throw new StoreException("simulated: lost " + call);
      }
      case 2 -> {
        actor.tell(call + " will be applied later");
        byte[] copy = content.clone();
        actors.later(() -> shared.createIfAbsent(name, copy));
        throw new StoreException("simulated: no reply to " + call);
      }
      case 3 -> {
        boolean created = super.createIfAbsent(name, content);
        actor.tell(call + (created ? " done, asked again by the client" : " taken"));
        return false;
      }
      default -> {
        boolean created = super.createIfAbsent(name, content);
        actor.tell(call + (created ? " done, reply lost" : " taken, reply lost"));
        throw new StoreException("simulated: reply lost of " + call);
      }
    }
  }

  @Override
  public ObjectOutput put(String name) {
    before("put " + name);
    if (exists(name)) {
      throw new AssertionError("object " + name + " would be written twice");
    }
    return new ForwardingOutput(super.put(name)) {
      @Override
      public void commit() {
        before("commit " + name);
        if (trouble(3)) {
          actor.tell("commit of " + name + " failed");
          throw new StoreException("simulated: commit of " + name);
        }
        super.commit();
      }
    };
  }

  private boolean exists(String name) {
    try {
      shared.open(name).close();
      return true;
    } catch (org.ysteron.store.MissingObjectException e) {
      return false;
    }
  }
}
