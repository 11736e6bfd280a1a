package org.ysteron.internal.upkeep;

import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.option.LakeSettings;

/** Changes what the lake page says of upkeep. */
public final class Settings {
  private Settings() {}

  /** Changes one of the lake's settings. */
  public static Change change(String name, Object value) {
    LakeSettings.DEFAULTS.with(name, value); // what cannot be is refused before anything is done
    return staging ->
        staging.edit(
            LakeFeature.HOLDS,
            (lake, own) -> {
              LakeSettings changed =
                  LakeSettings.stored(lake.upkeep().settings()).with(name, value);
              return lake.with(lake.upkeep().withSettings(changed.values()));
            });
  }

  /** Refuses all that was started before, when the lake was put back from a copy. */
  public static Change restored() {
    return new HorizonChange(() -> Long.MAX_VALUE);
  }
}
