package org.ysteron.maintenance;

import java.util.Collections;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What upkeep would do now.
 *
 * @param rules the expiry rules of each table, as text
 * @param expiry versions that would expire
 * @param sweep what would be deleted, without what would expire now
 * @param packing for each table the files that would be combined; tables without any are left out
 */
public record UpkeepPlan(
    SortedMap<String, String> rules,
    ExpiryReport expiry,
    SweepReport sweep,
    SortedMap<String, CompactionPlan> packing) {
  public UpkeepPlan {
    rules = Collections.unmodifiableSortedMap(new TreeMap<>(rules));
    packing = Collections.unmodifiableSortedMap(new TreeMap<>(packing));
  }
}
