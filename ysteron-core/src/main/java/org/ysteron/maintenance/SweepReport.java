package org.ysteron.maintenance;

import java.util.Collections;
import java.util.List;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.report.Committed;

/**
 * What a sweep did, or would do.
 *
 * @param horizon work that was started before this entry can no longer be committed
 * @param floor entries below this one are no longer kept
 * @param deleted what was deleted
 * @param copied bytes of pages that were copied, so that the objects that held them can be deleted
 * @param waiting what nothing needs any more but can be deleted only later, when no work can be
 *     under way that started before it became free
 * @param foreign objects in the lake's directories whose names are not those of a lake; they stay
 * @param commits the commits, in order
 * @param isSpent whether the budget ended it, so that there is more to do
 */
public record SweepReport(
    long horizon,
    long floor,
    SortedMap<Kind, Amount> deleted,
    long copied,
    Amount waiting,
    List<String> foreign,
    List<Committed> commits,
    boolean isSpent) {
  public SweepReport {
    deleted = Collections.unmodifiableSortedMap(new TreeMap<>(deleted));
    foreign = List.copyOf(foreign);
    commits = List.copyOf(commits);
  }

  /** What is deleted. */
  public enum Kind {
    /** Data files and objects of pages that versions which have expired needed. */
    FREED,
    /** What writers left that never committed. */
    STRAY,
    /** Unfinished objects whose writers died. */
    UNFINISHED,
    /** Entries of the ledger below the floor. */
    ENTRY
  }

  /**
   * Some objects.
   *
   * @param objects how many
   * @param bytes their sizes together
   */
  public record Amount(long objects, long bytes) {
    public static final Amount NONE = new Amount(0, 0);

    /** These and one more. */
    public Amount and(long size) {
      return new Amount(objects + 1, bytes + size);
    }
  }

  /** All that was deleted. */
  public Amount all() {
    return new Amount(
        deleted.values().stream().mapToLong(Amount::objects).sum(),
        deleted.values().stream().mapToLong(Amount::bytes).sum());
  }
}
