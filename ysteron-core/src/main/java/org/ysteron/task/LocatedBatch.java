package org.ysteron.task;

import org.ysteron.data.Batch;

/**
 * Rows with their positions.
 *
 * @param rows the rows by column
 * @param positions the position of each row in its data file
 * @param serials the serial of each row
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record LocatedBatch(Batch rows, int[] positions, long[] serials) {}
