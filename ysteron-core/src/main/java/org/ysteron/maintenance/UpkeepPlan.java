package org.ysteron.maintenance;

import java.util.Collections;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What upkeep would do now.
 *
 * @param rules in words, which versions are kept of each table
 * @param expiry versions that would go
 * @param sweep what would be deleted, before what would expire now
 * @param packing of each table of which files would be packed, which
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
