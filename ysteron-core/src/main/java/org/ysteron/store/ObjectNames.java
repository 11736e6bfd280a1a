package org.ysteron.store;

/** The rule for object names. */
final class ObjectNames {
  private static final int LONGEST_SEGMENT = 200;

  private ObjectNames() {}

  static String check(String name) {
    int start = 0;
    while (true) {
      int slash = name.indexOf('/', start);
      int end = slash < 0 ? name.length() : slash;
      if (!isSegment(name, start, end)) {
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

  /** Whether a part of a name matches {@code [A-Za-z0-9_-][A-Za-z0-9._-]{0,199}}. */
  private static boolean isSegment(String name, int start, int end) {
    if (start == end || end - start > LONGEST_SEGMENT || name.charAt(start) == '.') {
      return false;
    }
    for (int i = start; i < end; i++) {
      char c = name.charAt(i);
      boolean plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
      if (!plain && c != '_' && c != '-' && c != '.') {
        return false;
      }
    }
    return true;
  }
}
