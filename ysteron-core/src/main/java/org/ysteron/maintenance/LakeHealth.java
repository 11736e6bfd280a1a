package org.ysteron.maintenance;

import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * The maintenance of a lake that is due, and when.
 *
 * @param horizon work that was started before this entry can no longer be committed
 * @param floor entries below this one are no longer kept
 * @param free objects that nothing needs and that are not deleted yet
 * @param freeUntil when the last of them can be deleted at the latest, by the setting {@code
 *     sweep.after}; empty if there are none
 * @param entries number of ledger entries from the floor on
 * @param holds number of bookmarks and other holds that keep versions
 * @param erasures erasures that were started and are not finished
 * @param clocks what is wrong with the times of the newest commits
 * @param tables for each table the kept versions, and those that will expire
 */
public record LakeHealth(
    long horizon,
    long floor,
    SweepReport.Amount free,
    Optional<Instant> freeUntil,
    long entries,
    long holds,
    List<Erasure> erasures,
    Clocks clocks,
    SortedMap<String, Forecast> tables) {
  public LakeHealth {
    erasures = List.copyOf(erasures);
    tables = Collections.unmodifiableSortedMap(new TreeMap<>(tables));
  }

  /**
   * What the rules of a table let go.
   *
   * @param rules which versions are kept, in words
   * @param kept how many versions there are
   * @param dueNow how many may go at once
   * @param inADay how many may go within a day from now if nothing is committed, those included
   * @param inAWeek how many within a week
   * @param inAMonth how many within thirty days
   */
  public record Forecast(
      String rules, long kept, long dueNow, long inADay, long inAWeek, long inAMonth) {}

  /**
   * Times that are known to be wrong, because the clock of a writer was. What has such a time
   * counts as younger than it may be, never as older.
   *
   * @param ahead the time of the newest commit, when it has not come yet
   * @param behind how many of the newest entries came from writers whose clocks were behind, so
   *     that their times say only which came first
   * @param of how many of the newest entries were looked at, at most {@value #MOST_LOOKED_AT}
   */
  public record Clocks(Optional<Instant> ahead, long behind, long of) {
    public static final int MOST_LOOKED_AT = 1000;
  }

  /**
   * An erasure that is not finished.
   *
   * @param table the table's name
   * @param opened when it was begun
   * @param author who began it
   * @param isCleared whether no version has the rows any more, so that only what is left of them in
   *     the store is to go
   */
  public record Erasure(String table, Instant opened, String author, boolean isCleared) {}
}
