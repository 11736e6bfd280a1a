package org.ysteron.maintenance;

import java.util.Collections;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What upkeep did.
 *
 * @param expiry versions that expired
 * @param sweep what was deleted
 * @param packed for each table of which files were combined, what was done
 * @param failed tables, or the sweep, with the reason why something could not be done; all else was
 *     done
 * @param isSpent whether the budget ended it, so that there is more to do
 */
public record UpkeepReport(
    ExpiryReport expiry,
    SweepReport sweep,
    SortedMap<String, CompactionReport> packed,
    SortedMap<String, String> failed,
    boolean isSpent) {
  public UpkeepReport {
    packed = Collections.unmodifiableSortedMap(new TreeMap<>(packed));
    failed = Collections.unmodifiableSortedMap(new TreeMap<>(failed));
  }
}
