package org.ysteron.report;

import org.ysteron.data.Row;

/**
 * A row whose primary key another row has.
 *
 * @param key the columns of the key
 * @param serial the row's number for life, by which it can be changed or deleted
 * @param birth the ordinal of the commit that gave it its values
 */
public record DuplicateRow(Row key, long serial, long birth) {}
