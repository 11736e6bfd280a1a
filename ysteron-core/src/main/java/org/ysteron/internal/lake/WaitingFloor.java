package org.ysteron.internal.lake;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.internal.json.JsonObject;

/**
 * A floor that a commit has set and that is carried out once the horizon is above that commit.
 * Floors may be set more often than the horizon passes the commits that set them, so that several
 * wait.
 *
 * @param floor entries below it may go then
 * @param set the entry that set it
 * @param hash the hash of the entry {@code floor}
 */
public record WaitingFloor(long floor, long set, String hash) {
  private static final int MOST = 8;

  /**
   * The floors that wait when one more is set: of those that are due the greatest, and of all so
   * many that a lake page stays small. One that is left out is made up for by the next.
   */
  static List<WaitingFloor> with(List<WaitingFloor> waiting, WaitingFloor newest, long horizon) {
    List<WaitingFloor> all = new ArrayList<>(waiting);
    all.add(newest);
    while (all.size() > 1 && all.get(1).set < horizon) {
      all.remove(0);
    }
    while (all.size() > MOST) {
      all.remove(closest(all));
    }
    return List.copyOf(all);
  }

  /** The one, neither the first nor the last, whose neighbours were set the shortest time apart. */
  private static int closest(List<WaitingFloor> all) {
    int closest = 1;
    for (int i = 2; i < all.size() - 1; i++) {
      if (apart(all, i) < apart(all, closest)) {
        closest = i;
      }
    }
    return closest;
  }

  private static long apart(List<WaitingFloor> all, int i) {
    return all.get(i + 1).set - all.get(i - 1).set;
  }

  Map<String, Object> toJson() {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("floor", floor);
    json.put("set", set);
    json.put("hash", hash);
    return json;
  }

  static WaitingFloor fromJson(JsonObject json) {
    return new WaitingFloor(json.number("floor"), json.number("set"), json.text("hash"));
  }
}
