package org.ysteron.report;

import java.util.List;
import java.util.Map;

/**
 * What is known of a key in the leftovers of a table.
 *
 * @param path the key; {@code health.battery} is one inside another
 * @param rows how many rows have it
 * @param types how many of its values have which type
 * @param since the version that inserted the oldest row with it
 * @param samples some values, as JSON
 */
public record LeftoverKey(
    String path, long rows, Map<String, Long> types, long since, List<String> samples) {}
