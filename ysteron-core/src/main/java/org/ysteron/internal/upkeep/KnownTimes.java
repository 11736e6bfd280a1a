package org.ysteron.internal.upkeep;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.report.CommitStamp;

/**
 * When things happened, as far as times of commits are to be believed. A commit whose writer's
 * clock was behind has the time of the one before it and three microseconds: it was made later than
 * that, and before the next commit with a time of its own. One whose writer's clock was ahead has a
 * time that has not come yet. Nothing is called older than it may be. For one thread.
 */
final class KnownTimes {
  /** Times that are as near to one another are one. */
  private static final Duration APART = Duration.ofSeconds(1);

  private final LakeState state;
  private final PageStore pages;
  private final Instant now;
  private long runFrom;
  private long runTo;

  /** At the time of a commit that is being made, unless this machine's clock is far from it. */
  static KnownTimes at(Staging staging, Instant clock) {
    Instant commit = staging.commit().time();
    Instant now = commit.isAfter(clock.plus(APART)) ? clock : commit;
    return new KnownTimes(staging.base(), staging.pages(), now);
  }

  /** {@code now}: the time by this machine's clock. */
  KnownTimes(LakeState state, PageStore pages, Instant now) {
    this.state = state;
    this.pages = pages;
    this.now = now;
  }

  /** The time by which an age is judged. */
  Instant now() {
    return now;
  }

  /** A time that a commit was not made after. */
  Instant notAfter(CommitStamp commit) {
    if (commit.time().isAfter(now)) {
      return now;
    }
    if (!isBehind(commit.entry())) {
      return commit.time();
    }
    long known = knownAfter(commit.entry());
    Instant time = known > state.number() ? now : time(known).orElse(now);
    return time.isAfter(now) ? now : time;
  }

  /** The first entry behind one whose time is its writer's own; a run of others is passed once. */
  private long knownAfter(long entry) {
    long next = entry + 1;
    while (next <= state.number() && (time(next).isEmpty() || isBehind(next))) {
      next = next >= runFrom && next < runTo ? runTo : next + 1;
    }
    runFrom = entry + 1;
    runTo = next;
    return next;
  }

  /** The last entry up to one whose time is its writer's own. */
  long believedUpTo(long entry) {
    long believed = entry;
    while (believed > 0 && isBehind(believed)) {
      believed--;
    }
    return believed;
  }

  /** What is wrong with the times of the newest entries. */
  LakeHealth.Clocks clocks() {
    Instant newest = state.entry().time();
    boolean isAhead = newest.isAfter(now.plus(APART));
    long behind = 0;
    long of = 0;
    for (long entry = state.number();
        of < LakeHealth.Clocks.MOST_LOOKED_AT && time(entry - 1).isPresent();
        entry--) {
      behind += isBehind(entry) ? 1 : 0;
      of++;
    }
    return new LakeHealth.Clocks(isAhead ? Optional.of(newest) : Optional.empty(), behind, of);
  }

  /** Whether an entry's time says only that it came after the one before it. */
  private boolean isBehind(long entry) {
    Optional<Instant> before = time(entry - 1);
    return before.isPresent()
        && time(entry).equals(before.map(time -> time.plus(LakeCore.UNKNOWN_LATER)));
  }

  private Optional<Instant> time(long entry) {
    return entry == state.number()
        ? Optional.of(state.entry().time())
        : state.page().entry(entry, pages).map(EntryRecord::time);
  }
}
