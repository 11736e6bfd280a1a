package org.ysteron.sql.keep;

import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/**
 * A step of a query: something that makes rows. Immutable; each opening makes them anew.
 *
 * <ul>
 *   <li>The columns of its batches are those of the schema, in this order, under names of its own.
 *   <li>A batch is good until the next one is asked for.
 *   <li>It opens its inputs by {@link #open}, so that they can be cancelled and measured.
 * </ul>
 */
public interface Step {

  /** The columns of the rows. */
  Schema columns();

  /** The steps whose rows it takes. */
  List<Step> inputs();

  /** Begins to make the rows; for {@link #open} alone. */
  Source<SelectedBatch> begin(Running running);

  /** Begins to make the rows, which end when the query is cancelled, and are measured if wanted. */
  default Source<SelectedBatch> open(Running running) {
    return Watched.open(this, running);
  }
}
