package org.ysteron.maintenance;

import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What upkeep has to do in a lake, and when.
 *
 * @param horizon what was started before this entry cannot be committed any more
 * @param floor entries below this are not kept any more
 * @param free what nothing needs and is not deleted yet
 * @param freeUntil when the last of it may go at the latest, by the setting {@code sweep.after};
 *     empty when there is none
 * @param entries how many entries of the ledger there are from the floor on
 * @param holds how many bookmarks and other holds keep versions
 * @param erasures those that were begun and are not finished
 * @param clocks what is wrong with the times of the newest commits
 * @param tables of each table, which versions are kept, and what will go
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
