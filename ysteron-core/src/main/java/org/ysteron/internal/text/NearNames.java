package org.ysteron.internal.text;

import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;

/** Finds the names that a mistyped one may have meant. */
public final class NearNames {
  private static final int MOST_SHOWN = 3;
  private static final int MOST_LISTED = 20;
  private static final int LONGEST = 255;
  private static final int LONGEST_SHOWN = 80;

  private NearNames() {}

  /** A sentence with a space before it, such as {@code " Did you mean gauge_id?"}, or nothing. */
  public static String didYouMean(String wrong, Collection<String> known) {
    List<String> near = near(wrong, known);
    return near.isEmpty() ? "" : " Did you mean " + String.join(" or ", near) + "?";
  }

  /** A name for messages, whatever came as one. */
  public static String shown(String name) {
    return name.codePointCount(0, name.length()) > LONGEST_SHOWN
        ? name.substring(0, name.offsetByCodePoints(0, LONGEST_SHOWN)) + "…"
        : name;
  }

  /** NearNames for messages, some of them when there are many. */
  public static String list(Collection<String> names) {
    String some =
        String.join(", ", names.stream().limit(MOST_LISTED).map(NearNames::shown).toList());
    return names.size() > MOST_LISTED
        ? "%s and %d more".formatted(some, names.size() - MOST_LISTED)
        : some;
  }

  /** The nearest names, best first. */
  public static List<String> near(String wrong, Collection<String> known) {
    if (wrong.length() > LONGEST) {
      return List.of(); // none is so long
    }
    String lower = wrong.toLowerCase(Locale.ROOT);
    int most = Math.max(1, Math.min(lower.length() / 3 + 1, 4));
    record Candidate(String name, int distance) {}
    return known.stream()
        .map(name -> new Candidate(name, distance(lower, name.toLowerCase(Locale.ROOT))))
        .filter(candidate -> candidate.distance <= most)
        .sorted(Comparator.comparingInt(Candidate::distance).thenComparing(Candidate::name))
        .limit(MOST_SHOWN)
        .map(Candidate::name)
        .toList();
  }

  /** The Levenshtein distance. */
  private static int distance(String a, String b) {
    int[] row = new int[b.length() + 1];
    for (int j = 0; j <= b.length(); j++) {
      row[j] = j;
    }
    for (int i = 1; i <= a.length(); i++) {
      int diagonal = row[0];
      row[0] = i;
      for (int j = 1; j <= b.length(); j++) {
        int change = diagonal + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1);
        diagonal = row[j];
        row[j] = Math.min(change, Math.min(row[j], row[j - 1]) + 1);
      }
    }
    return row[b.length()];
  }
}
