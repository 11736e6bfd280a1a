package org.ysteron.internal.tree;

/**
 * How far back some pages lie: the least number of an entry that holds one of them, and the least
 * start of a {@code pages} object that does. {@link #NONE} for no pages at all. Immutable.
 *
 * @param entry the least entry; {@link Long#MAX_VALUE} for none
 * @param start the least start; {@link Long#MAX_VALUE} for none
 */
public record Reach(long entry, long start) {
  public static final Reach NONE = new Reach(Long.MAX_VALUE, Long.MAX_VALUE);

  /** The reach of both. */
  public Reach and(Reach other) {
    return new Reach(Math.min(entry, other.entry), Math.min(start, other.start));
  }

  /** What of it counts for the lake, when it is a table's: pages objects belong to their table. */
  public Reach ofEntriesOnly() {
    return new Reach(entry, Long.MAX_VALUE);
  }

  /** What some references add to a page that holds them. */
  public static Reach below(PageHome holder, Iterable<PageRef> references) {
    Reach reach = NONE;
    for (PageRef reference : references) {
      if (reference != null) {
        reach = reach.and(reference.reachFrom(holder));
      }
    }
    return reach;
  }

  /** One more than a number, or 0 for none. */
  static long stored(long number) {
    return number == Long.MAX_VALUE ? 0 : number + 1;
  }

  /** What {@link #stored} gave. */
  static long number(long stored) {
    return stored == 0 ? Long.MAX_VALUE : stored - 1;
  }
}
