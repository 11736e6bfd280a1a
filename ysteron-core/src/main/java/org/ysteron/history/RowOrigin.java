package org.ysteron.history;

import org.ysteron.data.Row;

/**
 * Which commits a row comes from.
 *
 * @param serial the row's number for life in its table
 * @param row its values
 * @param inserted the version that inserted it
 * @param changed the version that last changed its values; the one that inserted it when none did
 */
public record RowOrigin(long serial, Row row, MadeBy inserted, MadeBy changed) {}
