package org.ysteron.internal.transact;

import java.util.Optional;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.keys.KeyIndex;

/**
 * What a transaction has read of a table, to be tested against what others did since it started.
 *
 * @param filter the rows that were looked for
 * @param keys the keys that were looked for, when that is a smaller set; tested exactly
 * @param kind how much of what others did matters
 */
public record Read(Filter filter, Optional<KeyIndex> keys, Kind kind) {

  public enum Kind {
    /** The rows found were used as they are: rows added, changed and removed matter. */
    ROWS,
    /** The rows found were all changed, so that only added and changed rows matter. */
    CHANGED_ROWS,
    /** Keys that must stay unique; matters at every isolation. */
    KEYS
  }
}
