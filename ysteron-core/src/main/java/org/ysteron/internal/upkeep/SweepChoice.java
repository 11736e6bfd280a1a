package org.ysteron.internal.upkeep;

import java.time.temporal.TemporalAmount;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.option.Budget;

/**
 * How to sweep.
 *
 * @param after who started work no longer ago than this can commit it; empty for what the lake's
 *     settings say
 * @param isNow whether all that was started before is refused, whenever it was
 * @param raisesFloor whether entries go even where copying what is needed of them costs much
 * @param isThorough whether names are looked at that earlier sweeps have looked at
 * @param renewed tables of whose objects of pages, and of the lake's own, none from before stays,
 *     whatever copying them costs; empty when that is not wanted
 * @param budget how much is done
 */
public record SweepChoice(
    Optional<TemporalAmount> after,
    boolean isNow,
    boolean raisesFloor,
    boolean isThorough,
    Optional<Set<UUID>> renewed,
    Budget budget) {
  public static final SweepChoice STANDARD =
      new SweepChoice(Optional.empty(), false, false, false, Optional.empty(), Budget.ALL);

  /** With another time. */
  public SweepChoice after(TemporalAmount time) {
    return new SweepChoice(Optional.of(time), isNow, raisesFloor, isThorough, renewed, budget);
  }

  /** Refusing all that was started before. */
  public SweepChoice now() {
    return new SweepChoice(after, true, raisesFloor, isThorough, renewed, budget);
  }

  /** With entries gone, whatever it costs. */
  public SweepChoice raisingFloor() {
    return new SweepChoice(after, isNow, true, isThorough, renewed, budget);
  }

  /** With names that were looked at before. */
  public SweepChoice full() {
    return new SweepChoice(after, isNow, raisesFloor, true, renewed, budget);
  }

  /** With the pages of some tables, and of the lake, copied. */
  public SweepChoice renewing(Set<UUID> tables) {
    return new SweepChoice(after, isNow, raisesFloor, isThorough, Optional.of(tables), budget);
  }

  /** Within a budget. */
  public SweepChoice within(Budget other) {
    return new SweepChoice(after, isNow, raisesFloor, isThorough, renewed, other);
  }
}
