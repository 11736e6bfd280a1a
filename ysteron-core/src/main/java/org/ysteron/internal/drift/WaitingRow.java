package org.ysteron.internal.drift;

import java.util.Map;
import org.ysteron.data.Row;

/**
 * A row that waits for its table to grow.
 *
 * @param fitted by all columns of the table as it was, with what fitted them; null where the value
 *     waits
 * @param rest what waits, by the names of its columns
 */
record WaitingRow(Row fitted, Map<String, Object> rest) {}
