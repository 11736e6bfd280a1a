package org.ysteron.data;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Takes rows by names, which need not have the same. */
public interface NamedTarget {
  /** A row by names, its values as parsed JSON has them. */
  void add(Map<String, @Nullable Object> members);

  /** A row of a file in which everything is text. */
  void add(TextRow row);
}
