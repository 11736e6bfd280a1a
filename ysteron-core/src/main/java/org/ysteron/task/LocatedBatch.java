package org.ysteron.task;

import org.ysteron.data.Batch;

/**
 * Rows with where they are.
 *
 * @param rows the rows by column
 * @param positions of each row its position in its data file
 * @param serials of each row its number for life in its table
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record LocatedBatch(Batch rows, int[] positions, long[] serials) {}
