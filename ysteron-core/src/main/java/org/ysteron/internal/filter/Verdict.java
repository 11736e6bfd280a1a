package org.ysteron.internal.filter;

/** What ranges say of a condition: it is true for no row, for some perhaps, or for every one. */
public enum Verdict {
  NONE,
  SOME,
  ALL;

  Verdict and(Verdict other) {
    return compareTo(other) < 0 ? this : other;
  }

  Verdict or(Verdict other) {
    return compareTo(other) > 0 ? this : other;
  }
}
