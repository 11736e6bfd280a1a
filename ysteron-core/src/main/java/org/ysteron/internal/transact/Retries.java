package org.ysteron.internal.transact;

import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.ConflictException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.Isolation;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;

/**
 * Tries again what may be tried again.
 *
 * <p>Work that met another commit is done again from the newest state, at most {@value #MOST_TRIES}
 * times, with a pause that grows, when its conflict says that this may help. A commit of which the
 * store does not say how it ended is never made again: it is asked, at most {@value #MOST_ASKED}
 * times, how it ended. Nothing else is tried again.
 */
public final class Retries {
  private static final int MOST_TRIES = 60;
  private static final int MOST_ASKED = 4;

  private Retries() {}

  /** Does work that begins with the newest state and leaves nothing when it fails. */
  public static <T> T onConflict(LakeCore core, Supplier<T> work) {
    long began = System.nanoTime();
    for (int tries = 1; ; tries++) {
      try {
        return work.get();
      } catch (ConflictException e) {
        boolean isLast = tries == MOST_TRIES || core.isLate(began);
        if (!e.isWorthAnotherTry() || isLast) {
          throw e;
        }
      }
      core.watch().check();
      core.pause(tries);
    }
  }

  /** Does work on a change of the newest state; what it wrote goes when it fails. */
  public static <T> T changing(LakeCore core, Isolation isolation, Function<ChangeSet, T> work) {
    return onConflict(core, () -> once(core, isolation, work));
  }

  private static <T> T once(LakeCore core, Isolation isolation, Function<ChangeSet, T> work) {
    ChangeSet set = new ChangeSet(core, core.refresh(), isolation);
    try {
      return core.startedAt(set.start(), () -> work.apply(set));
    } catch (UnknownOutcomeException e) {
      throw e; // what was written may be committed
    } catch (RuntimeException e) {
      set.discard();
      throw e;
    }
  }

  /** Goes on with a commit until it is known how it ended. */
  public static Committed untilKnown(Supplier<Committed> commit) {
    UnknownOutcomeException last;
    try {
      return commit.get();
    } catch (UnknownOutcomeException e) {
      last = e;
    }
    for (int asked = 1; asked < MOST_ASKED; asked++) {
      try {
        return last.attempt().run();
      } catch (UnknownOutcomeException again) {
        last = again;
      }
    }
    throw last;
  }
}
