package org.ysteron.maintenance;

import java.util.Collections;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What upkeep did.
 *
 * @param expiry versions that went
 * @param sweep what was deleted
 * @param packed of each table of which files were packed, what was done
 * @param failed what could not be done, or not of all files, of which table, or by the sweep, and
 *     why; the rest was
 * @param isSpent whether it ended because its budget did, so that there is more to do
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
