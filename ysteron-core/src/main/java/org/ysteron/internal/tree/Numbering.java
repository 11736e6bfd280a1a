package org.ysteron.internal.tree;

import java.util.OptionalLong;

/**
 * Entry numbers in the names of objects, so that names order as numbers do: nine digits, three to a
 * directory where there are directories. From 10⁹ on there are more groups of three, behind a
 * letter that says how many: {@code d} for four, up to {@code g} for seven.
 */
public final class Numbering {
  private static final int LEAST_GROUPS = 3;
  private static final int MOST_GROUPS = 7;
  private static final int GROUP = 1000;

  private Numbering() {}

  private static String digits(long number) {
    if (number < 0) {
      throw new IllegalArgumentException("no entry has the number " + number);
    }
    int groups = LEAST_GROUPS;
    for (long rest = number / GROUP / GROUP / GROUP; rest > 0; rest /= GROUP) {
      groups++;
    }
    String plain = Long.toString(number);
    return "0".repeat(groups * 3 - plain.length()) + plain;
  }

  private static String letter(String digits) {
    int groups = digits.length() / 3;
    return groups == LEAST_GROUPS ? "" : String.valueOf((char) ('a' + groups - 1));
  }

  /** The number in one segment: {@code 000000042}. */
  public static String flat(long number) {
    String digits = digits(number);
    return letter(digits) + digits;
  }

  /** The number as directories and a name: {@code 000/000/042}. */
  public static String path(long number) {
    String digits = digits(number);
    StringBuilder path = new StringBuilder(letter(digits));
    for (int i = 0; i < digits.length(); i += 3) {
      path.append(path.isEmpty() ? "" : "/").append(digits, i, i + 3);
    }
    return path.toString();
  }

  /** The number of a path that {@link #path} gave. */
  public static long ofPath(String path) {
    StringBuilder digits = new StringBuilder(path.length());
    for (int i = 0; i < path.length(); i++) {
      char c = path.charAt(i);
      if (c != '/' && (c < 'a' || c > 'z')) {
        digits.append(c);
      }
    }
    return Long.parseLong(digits, 0, digits.length(), 10);
  }

  /** How many levels of three digits there are below a first segment; 0 when it is none. */
  public static int levels(String first) {
    if (isGroup(first)) {
      return LEAST_GROUPS - 1;
    }
    boolean letter = first.length() == 1 && first.charAt(0) > 'c';
    int groups = letter ? first.charAt(0) - 'a' + 1 : 0;
    return groups <= MOST_GROUPS ? groups : 0;
  }

  /** Whether a segment is three digits. */
  public static boolean isGroup(String segment) {
    return segment.length() == 3 && segment.chars().allMatch(c -> c >= '0' && c <= '9');
  }

  /** The number that a segment starts with, before its end or a {@code -}; empty when none. */
  public static OptionalLong leading(String segment) {
    int end = segment.indexOf('-');
    String flat = end < 0 ? segment : segment.substring(0, end);
    int start = !flat.isEmpty() && flat.charAt(0) > 'c' && flat.charAt(0) <= 'g' ? 1 : 0;
    String digits = flat.substring(start);
    boolean good =
        !digits.isEmpty()
            && digits.length() <= MOST_GROUPS * 3
            && digits.chars().allMatch(c -> c >= '0' && c <= '9');
    try {
      return good ? OptionalLong.of(Long.parseLong(digits)) : OptionalLong.empty();
    } catch (NumberFormatException e) {
      return OptionalLong.empty();
    }
  }
}
