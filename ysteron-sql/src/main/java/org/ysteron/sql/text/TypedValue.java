package org.ysteron.sql.text;

import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;

/**
 * A value for a question mark that is another one for another type, as a time without a zone is.
 */
public interface TypedValue {

  /** The value for a type. */
  @Nullable Object as(Type type);
}
