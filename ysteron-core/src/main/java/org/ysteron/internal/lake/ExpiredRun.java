package org.ysteron.internal.lake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.internal.json.JsonObject;

/**
 * Versions of a table that are gone, all from one to another but those that are still kept.
 *
 * @param first the first of them
 * @param last the last of them
 * @param from when they expired, or the first of them did
 * @param to when they expired, or the last of them did
 * @param who who let them go
 */
public record ExpiredRun(long first, long last, Instant from, Instant to, String who) {
  /** No head has more of them; the oldest are told together then. */
  static final int MOST = 64;

  private static final int LONGEST_WHO = 200;

  Map<String, Object> toJson() {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("first", first);
    json.put("last", last);
    json.put("from", from.toString());
    json.put("to", to.toString());
    json.put("who", who);
    return json;
  }

  static ExpiredRun fromJson(JsonObject json) {
    return new ExpiredRun(
        json.number("first"),
        json.number("last"),
        json.time("from"),
        json.time("to"),
        json.text("who"));
  }

  /** Runs of both, by their versions, no more than a head has. */
  public static List<ExpiredRun> united(List<ExpiredRun> before, List<ExpiredRun> more) {
    List<ExpiredRun> all = new ArrayList<>(before);
    all.addAll(more);
    all.sort(Comparator.comparingLong(ExpiredRun::first).thenComparingLong(ExpiredRun::last));
    int surplus = all.size() - MOST;
    if (surplus <= 0) {
      return List.copyOf(all);
    }
    List<ExpiredRun> united = new ArrayList<>();
    ExpiredRun oldest = all.get(0);
    for (ExpiredRun run : all.subList(1, surplus + 1)) {
      oldest = oldest.and(run);
    }
    united.add(oldest);
    united.addAll(all.subList(surplus + 1, all.size()));
    return List.copyOf(united);
  }

  /** What is sure of a version that is in both. */
  ExpiredRun and(ExpiredRun other) {
    return new ExpiredRun(
        Math.min(first, other.first),
        Math.max(last, other.last),
        from.isBefore(other.from) ? from : other.from,
        to.isAfter(other.to) ? to : other.to,
        both(who, other.who));
  }

  private static String both(String one, String other) {
    if (Arrays.asList(one.split(", ", -1)).containsAll(Arrays.asList(other.split(", ", -1)))) {
      return one;
    }
    String both = one + ", " + other;
    return both.length() <= LONGEST_WHO ? both : one.endsWith("others") ? one : one + ", others";
  }

  /** This run without who. */
  public ExpiredRun by(String other) {
    return new ExpiredRun(first, last, from, to, other);
  }

  /** What is known of when a version went: {@code on … by …}. */
  static Optional<String> told(long version, List<ExpiredRun> runs) {
    return runs.stream()
        .filter(run -> run.first <= version && version <= run.last)
        .reduce(ExpiredRun::and)
        .map(
            run ->
                run.from.equals(run.to)
                    ? "on %s by %s".formatted(run.from, run.who)
                    : "between %s and %s by %s".formatted(run.from, run.to, run.who));
  }
}
