package org.ysteron.report;

import org.ysteron.data.Row;

/**
 * A row whose primary key another row has as well.
 *
 * @param key the columns of the key
 * @param serial the row's serial, by which it can be changed or deleted
 * @param birth the ordinal of the commit that inserted or last changed it
 */
public record DuplicateRow(Row key, long serial, long birth) {}
