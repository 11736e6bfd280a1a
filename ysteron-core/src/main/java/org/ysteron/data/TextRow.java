package org.ysteron.data;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A row of a file in which every value is text, such as a CSV file. The type of a value follows
 * from its text.
 *
 * @param names the column names; one list for all rows of a file
 * @param values the texts; null for a missing value, empty for an empty value in quotes
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record TextRow(List<String> names, @Nullable String[] values) {}
