package org.ysteron.report;

import java.util.List;
import java.util.Map;

/**
 * A key in the leftovers of a table.
 *
 * @param path the key; {@code health.battery} is a nested key
 * @param rows how many rows have it
 * @param types the number of values by type
 * @param since the version that inserted the oldest row with this key
 * @param samples some values, as JSON
 */
public record LeftoverKey(
    String path, long rows, Map<String, Long> types, long since, List<String> samples) {}
