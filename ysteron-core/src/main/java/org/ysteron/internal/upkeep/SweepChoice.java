package org.ysteron.internal.upkeep;

import java.time.temporal.TemporalAmount;
import java.util.Optional;
import org.ysteron.option.Budget;

/**
 * How to sweep.
 *
 * @param after who started work no longer ago than this can commit it; empty for what the lake's
 *     settings say
 * @param isNow whether all that was started before is refused, whenever it was
 * @param raisesFloor whether entries go even where copying what is needed of them costs much
 * @param isThorough whether names are looked at that earlier sweeps have looked at
 * @param budget how much is done
 */
public record SweepChoice(
    Optional<TemporalAmount> after,
    boolean isNow,
    boolean raisesFloor,
    boolean isThorough,
    Budget budget) {
  public static final SweepChoice STANDARD =
      new SweepChoice(Optional.empty(), false, false, false, Budget.ALL);

  /** With another time. */
  public SweepChoice after(TemporalAmount time) {
    return new SweepChoice(Optional.of(time), isNow, raisesFloor, isThorough, budget);
  }

  /** Refusing all that was started before. */
  public SweepChoice now() {
    return new SweepChoice(after, true, raisesFloor, isThorough, budget);
  }

  /** With entries gone, whatever it costs. */
  public SweepChoice raisingFloor() {
    return new SweepChoice(after, isNow, true, isThorough, budget);
  }

  /** With names that were looked at before. */
  public SweepChoice thoroughly() {
    return new SweepChoice(after, isNow, raisesFloor, true, budget);
  }

  /** Within a budget. */
  public SweepChoice within(Budget other) {
    return new SweepChoice(after, isNow, raisesFloor, isThorough, other);
  }
}
