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
  private static final long DAY = 86_400_000_000L;
  private static final int MOST_STEPS = 60_000;

  private final Random random;
  private final boolean sleepers;
  private final List<Actor> awake = new ArrayList<>();
  private final List<Late> late = new ArrayList<>();
  private final List<String> trace = new ArrayList<>();
  private final Semaphore ended = new Semaphore(0);
  private Instant now = START;
  private Throwable failure;
  private int steps;

  /** Actors, some of whom sleep now and then, or none. */
  SimulatedActors(Random random, boolean sleepers) {
    this.random = random;
    this.sleepers = sleepers;
  }

  /** Somebody who does not sleep, if there is one. */
  private Actor anyone() {
    Actor any = awake.get(random.nextInt(awake.size()));
    for (int i = awake.indexOf(any), tries = awake.size(); tries > 0; tries--, i++) {
      Actor next = awake.get(i % awake.size());
      if (next.sleepsUntil <= steps) {
        return next;
      }
    }
    return any;
  }

  /** One of them. */
  final class Actor {
    private final String name;
    private final Semaphore turn = new Semaphore(0);
    private final long skewMicros =
        random.nextInt(50_000) + (random.nextInt(12) == 0 ? random.nextInt(61) - 30 : 0) * DAY;
    private int sleepsUntil;

    private Actor(String name) {
      this.name = name;
    }

    /** Lets another one go on, perhaps; and time go by. */
    void step() {
      if (++steps > MOST_STEPS) {
        throw new AssertionError("no end after " + steps + " steps");
      }
      now = now.plusNanos(1000L * (1 + random.nextInt(400)));
      for (int i = late.size() - 1; i >= 0; i--) {
        if (late.get(i).step <= steps) {
          late.remove(i).what.run();
        }
      }
      sleepPerhaps(200);
      Actor next = anyone();
      if (next != this && (sleepsUntil > steps || random.nextInt(3) > 0)) {
        next.turn.release();
        turn.acquireUninterruptibly();
      }
    }

    /** Once in so many times does nothing while the others do a good deal. */
    void sleepPerhaps(int once) {
      if (sleepers && random.nextInt(once) == 0) {
        sleepsUntil = steps + 20 + random.nextInt(500);
        tell("sleeps");
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
          anyone().turn.release();
        }
      }
    }
  }

  /** Something that happens at a step. */
  private record Late(int step, Runnable what) {}

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
    late.add(new Late(steps + 1 + random.nextInt(random.nextInt(3) > 0 ? 12 : 300), what));
  }

  /** What was to happen later does not happen any more. */
  void forgetLate() {
    late.clear();
  }

  /** Runs all to their end. */
  void run() {
    awake.get(0).turn.release();
    ended.acquireUninterruptibly();
    late.forEach(each -> each.what.run());
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
