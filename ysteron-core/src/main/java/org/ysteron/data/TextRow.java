package org.ysteron.data;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A row of a file in which everything is text, such as CSV: the type of a value is told by what is
 * in it.
 *
 * @param names of its columns; one list for all rows of a file
 * @param values as they stand there: null for none, empty for an empty one in quotes
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record TextRow(List<String> names, @Nullable String[] values) {}
