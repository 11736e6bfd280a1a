package org.ysteron.internal.commit;

import java.util.Arrays;
import java.util.Set;
import java.util.stream.Collectors;

/** What a program must know of a lake in which it was used. {@code docs/format.md} names them. */
public enum LakeFeature {
  /** Holds and the lake's settings: who does not know them would let go what they keep. */
  HOLDS("holds", false),
  /** Expired versions, copied pages, floors and horizons: what is missing may be no damage. */
  EXPIRY("expiry", true),
  /** Erasures under way: who does not know them would leave their pages behind. */
  ERASURE("erasure", false),
  /** Readers' positions: who does not know them would leave their pages behind. */
  POSITIONS("positions", false),
  /** Checks that calculate: who does not know them cannot test the rows that it writes. */
  EXPRESSIONS("expressions", false);

  private final String word;
  private final boolean isForReaders;

  LakeFeature(String word, boolean isForReaders) {
    this.word = word;
    this.isForReaders = isForReaders;
  }

  String word() {
    return word;
  }

  /** Whether readers must know it, too. */
  boolean isForReaders() {
    return isForReaders;
  }

  /** The words of all. */
  static Set<String> words() {
    return Arrays.stream(values()).map(LakeFeature::word).collect(Collectors.toUnmodifiableSet());
  }
}
