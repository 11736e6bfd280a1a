package org.ysteron.sql.keep;

import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/**
 * A step of a query: something that makes rows. Immutable; each opening makes them anew.
 *
 * <ul>
 *   <li>The columns of its batches are those of the schema, in this order, under names of its own.
 *   <li>A batch is good until the next one is asked for.
 * </ul>
 */
public interface Step {

  /** The columns of the rows. */
  Schema columns();

  /** Begins to make the rows. */
  Source<SelectedBatch> open(Running running);
}
