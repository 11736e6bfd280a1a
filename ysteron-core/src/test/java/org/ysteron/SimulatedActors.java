package org.ysteron;

import java.time.Clock;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.Semaphore;

/**
 * Runs some actors, each on a thread of its own, of which only one is ever awake: at each store
 * call a seeded random number says who goes on. So a seed decides every interleaving.
 */
final class SimulatedActors {
  static final Instant START = Instant.parse("2026-03-01T00:00:00Z");
  private static final int MOST_STEPS = 60_000;

  private final Random random;
  private final List<Actor> awake = new ArrayList<>();
  private final List<Runnable> late = new ArrayList<>();
  private final List<String> trace = new ArrayList<>();
  private final Semaphore ended = new Semaphore(0);
  private Instant now = START;
  private Throwable failure;
  private int steps;

  SimulatedActors(Random random) {
    this.random = random;
  }

  /** One of them. */
  final class Actor {
    private final String name;
    private final Semaphore turn = new Semaphore(0);
    private final long skewMicros = random.nextInt(50_000);

    private Actor(String name) {
      this.name = name;
    }

    /** Lets another one go on, perhaps; and time go by. */
    void step() {
      if (++steps > MOST_STEPS) {
        throw new AssertionError("no end after " + steps + " steps");
      }
      now = now.plusNanos(1000L * (1 + random.nextInt(400)));
      if (!late.isEmpty() && random.nextInt(6) == 0) {
        late.remove(random.nextInt(late.size())).run();
      }
      Actor next = awake.get(random.nextInt(awake.size()));
      if (next != this && random.nextInt(3) > 0) {
        next.turn.release();
        turn.acquireUninterruptibly();
      }
    }

    void tell(String what) {
      trace.add(name + ": " + what);
    }

    Clock clock() {
      return new Clock() {
        @Override
        public ZoneId getZone() {
          return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(ZoneId zone) {
          return this;
        }

        @Override
        public Instant instant() {
          return now.plusNanos(1000 * skewMicros);
        }
      };
    }

    private void run(Runnable life) {
      turn.acquireUninterruptibly();
      try {
        life.run();
      } catch (Throwable e) {
        failure = failure == null ? e : failure;
      } finally {
        awake.remove(this);
        if (awake.isEmpty()) {
          ended.release();
        } else {
          awake.get(random.nextInt(awake.size())).turn.release();
        }
      }
    }
  }

  /** What an actor does. */
  interface Life {
    void live(Actor actor);
  }

  void add(String name, Life life) {
    Actor actor = new Actor(name);
    awake.add(actor);
    Thread thread = new Thread(() -> actor.run(() -> life.live(actor)), name);
    thread.setDaemon(true);
    thread.start();
  }

  /** Something that happens later, or never. */
  void later(Runnable what) {
    late.add(what);
  }

  /** Runs all to their end. */
  void run() {
    awake.get(0).turn.release();
    ended.acquireUninterruptibly();
    late.forEach(Runnable::run);
    if (failure instanceof Error error) {
      throw error;
    }
    if (failure != null) {
      throw new AssertionError(failure.toString(), failure);
    }
  }

  List<String> trace() {
    return trace;
  }
}
