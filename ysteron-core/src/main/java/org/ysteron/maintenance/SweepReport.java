package org.ysteron.maintenance;

import java.util.Collections;
import java.util.List;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.report.Committed;

/**
 * What a sweep did, or would do.
 *
 * @param horizon what was started before this entry cannot be committed any more
 * @param floor entries below this are not kept any more
 * @param deleted what was deleted
 * @param copied bytes of pages that were copied, so that what held them can go
 * @param waiting what nothing needs any more and may be deleted later, once nobody can be at work
 *     who started before it was free
 * @param foreign objects in the lake's directories whose names are not the lake's; they stay
 * @param commits what was committed, in order
 * @param isSpent whether it ended because its budget did, so that there is more to do
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
