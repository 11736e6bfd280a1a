package org.ysteron.option;

import java.time.temporal.TemporalAmount;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * The settings of a lake: the default retention of tables, and the schedule of upkeep. Settings of
 * newer programs are kept and ignored. Immutable.
 */
public final class LakeSettings {
  /** Work that started within this time before a sweep can still be committed after it. */
  public static final String SWEEP_AFTER = "sweep.after";

  /** Whether upkeep packs small files. */
  public static final String PACK = "pack";

  private static final Map<String, Setting> SETTINGS = settings();

  public static final LakeSettings DEFAULTS = new LakeSettings(Map.of());

  private final Map<String, Object> values;

  private LakeSettings(Map<String, Object> values) {
    this.values = Collections.unmodifiableMap(new TreeMap<>(values));
  }

  private static Map<String, Setting> settings() {
    Map<String, Setting> all = new TreeMap<>(Setting.ofRetention());
    all.put(
        SWEEP_AFTER,
        new Setting.Text(
            "P7D", Retention::parsePositive, "an ISO 8601 duration above zero, such as P7D"));
    all.put(PACK, new Setting.Flag(true));
    return all;
  }

  /** Settings as they are stored in a lake. */
  public static LakeSettings stored(Map<String, Object> values) {
    return new LakeSettings(values);
  }

  /** The names of all settings that can be set. */
  public static List<String> names() {
    return List.copyOf(SETTINGS.keySet());
  }

  /** The settings that differ from their defaults, and those of newer programs. */
  public Map<String, Object> values() {
    return values;
  }

  private static Setting setting(String name) {
    return Setting.named(name, SETTINGS, "lake");
  }

  /** The value of a setting; its default if it was not set, or to an unknown value. */
  public Object value(String name) {
    return setting(name).valueOf(values.get(name));
  }

  /**
   * These settings with another value for one.
   *
   * @param value a number, a boolean, or a text
   * @throws org.ysteron.error.NotFoundException when there is no such setting
   * @throws org.ysteron.error.InvalidInputException when it cannot have that value
   */
  public LakeSettings with(String name, Object value) {
    Map<String, Object> changed = new TreeMap<>(values);
    changed.put(name, setting(name).accepted(name, value));
    return new LakeSettings(changed);
  }

  /** The retention of tables without their own. */
  public LakeSettings keeping(Retention rules) {
    LakeSettings changed = this;
    for (Map.Entry<String, Object> value : Setting.values(rules).entrySet()) {
      changed = changed.with(value.getKey(), value.getValue());
    }
    return changed;
  }

  /** The retention of tables without their own. */
  public Retention retention() {
    return Setting.retention(this::value);
  }

  /** Work that started within this time before a sweep can still be committed after it. */
  public TemporalAmount sweepAfter() {
    return Retention.parseSpan((String) value(SWEEP_AFTER));
  }

  /** Whether upkeep packs small files. */
  public boolean packs() {
    return (Boolean) value(PACK);
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof LakeSettings settings && values.equals(settings.values);
  }

  @Override
  public int hashCode() {
    return values.hashCode();
  }

  @Override
  public String toString() {
    return values.toString();
  }
}
