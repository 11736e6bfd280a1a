package org.ysteron.internal.upkeep;

import java.util.function.LongSupplier;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.Staging;

/** Raises the horizon: who started before it may not commit any more. It never falls. */
final class HorizonChange implements Change {
  private final LongSupplier wanted;
  private long horizon;

  /**
   * A horizon.
   *
   * @param wanted the entry; no later than this change's own is possible, and meant by any later
   */
  HorizonChange(LongSupplier wanted) {
    this.wanted = wanted;
  }

  /** The horizon that was set. */
  long horizon() {
    return horizon;
  }

  @Override
  public void apply(Staging staging) {
    horizon =
        Math.max(
            staging.base().page().upkeep().horizon(),
            Math.min(wanted.getAsLong(), staging.commit().entry()));
    staging.edit(LakeFeature.EXPIRY, (lake, own) -> lake.with(lake.upkeep().withHorizon(horizon)));
  }
}
