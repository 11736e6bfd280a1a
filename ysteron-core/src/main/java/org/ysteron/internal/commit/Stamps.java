package org.ysteron.internal.commit;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.ysteron.error.YsteronException;
import org.ysteron.report.CommitStamp;
import org.ysteron.store.ObjectStore;

/**
 * Gives commits their number, id and time, which is never before their parent's.
 *
 * @param clock this machine's
 */
record Stamps(Clock clock, ObjectStore store) {
  private static final Logger LOG = LoggerFactory.getLogger(Stamps.class);

  /** A clock this much ahead of the store's makes no commits. */
  private static final Duration MOST_AHEAD = Duration.ofSeconds(60);

  /**
   * A commit whose clock is behind has the time of its parent and so much: nobody knows when it was
   * made, only that it was later.
   */
  public static final Duration UNKNOWN = Duration.of(3, ChronoUnit.MICROS);

  /** The time of a commit whose clock is behind its parent's time by less is about that. */
  private static final Duration MOST_BEHIND = Duration.ofSeconds(1);

  /** The commit that makes a lake. */
  CommitStamp first(CommitNote note) {
    return stamp(0, 0, time(Instant.MIN), note);
  }

  /** Who, when and why for some commits of the next entry. */
  List<CommitStamp> next(LakeState base, List<CommitNote> notes) {
    Instant time = time(base.entry().time());
    List<CommitStamp> stamps = new ArrayList<>();
    for (CommitNote note : notes) {
      long ordinal = base.commit().ordinal() + 1 + stamps.size();
      stamps.add(stamp(base.number() + 1, ordinal, time, note));
    }
    return stamps;
  }

  private static CommitStamp stamp(long entry, long ordinal, Instant time, CommitNote note) {
    return new CommitStamp(
        entry,
        ordinal,
        note.id().orElseGet(UUID::randomUUID),
        time,
        note.author(),
        note.program(),
        note.note(),
        note.statement());
  }

  /** The time of a commit, later than its parent's and not ahead of the store's. */
  private Instant time(Instant parent) {
    Instant now = now();
    if (now.isAfter(parent)) {
      return now;
    }
    boolean isKnown = !parent.isAfter(now.plus(MOST_BEHIND));
    Instant next = isKnown ? parent.plus(1, ChronoUnit.MICROS) : parent.plus(UNKNOWN);
    if (parent.isAfter(now.plus(MOST_AHEAD))) {
      LOG.warn(
          "The clock of this machine says {}, but the newest commit of the lake in {} has the later time {}. The next commit gets the time {}.",
          now,
          store.location(),
          parent,
          next);
    }
    return next;
  }

  /** This machine's time, which is not ahead of the store's. */
  Instant now() {
    Instant now = clock.instant().truncatedTo(ChronoUnit.MICROS);
    Instant stores = store.time();
    if (now.isAfter(stores.plus(MOST_AHEAD))) {
      throw new YsteronException(
          "The clock of this machine says %s, but the store says %s. Nothing was changed; correct the clock and try again."
              .formatted(now, stores));
    }
    return now;
  }
}
