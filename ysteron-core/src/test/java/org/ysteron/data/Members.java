package org.ysteron.data;

import java.util.LinkedHashMap;
import java.util.Map;

/** The members of a JSON object, some of which may be null. */
public final class Members {
  private Members() {}

  /** By names and values in turn. */
  public static Map<String, Object> of(Object... pairs) {
    Map<String, Object> members = new LinkedHashMap<>();
    for (int i = 0; i < pairs.length; i += 2) {
      members.put((String) pairs[i], pairs[i + 1]);
    }
    return members;
  }
}
