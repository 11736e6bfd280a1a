package org.ysteron.store;

import java.util.regex.Pattern;

/** The rule for object names. */
final class ObjectNames {
  private static final Pattern SEGMENT = Pattern.compile("[A-Za-z0-9_-][A-Za-z0-9._-]{0,199}");

  private ObjectNames() {}

  static String check(String name) {
    int start = 0;
    while (true) {
      int slash = name.indexOf('/', start);
      String segment = name.substring(start, slash < 0 ? name.length() : slash);
      if (!SEGMENT.matcher(segment).matches()) {
        throw new IllegalArgumentException("not an object name: " + name);
      }
      if (slash < 0) {
        return name;
      }
      start = slash + 1;
    }
  }

  static void checkDirectory(String name) {
    if (!name.isEmpty()) {
      check(name);
    }
  }
}
