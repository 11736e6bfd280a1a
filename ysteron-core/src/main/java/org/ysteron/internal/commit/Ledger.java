package org.ysteron.internal.commit;

import java.util.Arrays;
import java.util.Set;

/**
 * The gap-free list of commits. Implementations are safe for many threads and processes and keep to
 * this:
 *
 * <ul>
 *   <li>{@link #newest} returns the greatest number in the list, which it finds without trying
 *       numbers, or -1 for an empty list. An entry acknowledged before the call is counted. It may
 *       be below the floor, when only such entries were listed: who calls it looks at the floor
 *       after it has read the entry.
 *   <li>{@link #create} puts an entry at a number if none is there; of racing calls one at most
 *       returns true. A {@link org.ysteron.store.StoreException} leaves the outcome open.
 *   <li>{@link #read} returns exactly the first of the bytes that were created. For one that is
 *       missing it throws {@link org.ysteron.error.ExpiredException} when its number is below the
 *       floor, else {@link org.ysteron.error.DamagedException}.
 *   <li>{@link #marks} says what stands beside the entries, the floor among it, which is the oldest
 *       number still promised.
 *   <li>{@link #raiseFloor} makes a floor known, durably; {@link #eachBelow} tells of all entries
 *       below a number that are there, in any order, those among them that were made after they had
 *       been let go.
 *   <li>A hole above the floor is reported as {@link org.ysteron.error.DamagedException}.
 * </ul>
 */
public interface Ledger {

  /**
   * The number of the newest entry.
   *
   * @param known a number that was seen, from which on to look, or -1; when it is not there any
   *     more it is searched for anew
   */
  long newest(long known);

  /** The first bytes of an entry, at most so many. */
  Start read(long number, int most);

  /**
   * How an entry starts.
   *
   * @param bytes its first bytes
   * @param size how many it has in all
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once
  record Start(byte[] bytes, long size) {
    /** Whether these are all its bytes, and the same as some. */
    boolean isWholly(byte[] expected) {
      return size == expected.length && Arrays.equals(bytes, expected);
    }
  }

  /** Whether there is an entry of that number. */
  boolean exists(long number);

  boolean create(long number, byte[] content);

  /** What stands beside the entries, of one look. */
  Marks marks();

  /**
   * What stands beside the entries.
   *
   * @param floor the oldest number still promised
   * @param restorations ids of the times that the lake was put back from a copy, of which the last
   *     is there
   */
  record Marks(long floor, Set<String> restorations) {}

  /** The oldest number still promised. */
  default long floor() {
    return marks().floor();
  }

  /** Makes known, durably, that the lake was put back from a copy. */
  void markRestored(String id);

  /** Forgets all times that the lake was put back but one. */
  void forgetRestoredBut(String id);

  /** Makes a floor known, and the hash of the entry of that number. */
  void raiseFloor(long number, String hash);

  /** Forgets the floors below one. */
  void forgetFloorsBelow(long number);

  /**
   * Tells of the entries below a number that are there.
   *
   * @return false when the visitor had enough
   */
  boolean eachBelow(long number, Visitor visitor);

  /** Is told of entries. */
  @FunctionalInterface
  interface Visitor {
    /** An entry; false when no more is wanted. */
    boolean entry(long number, String name, long bytes);
  }

  /** The name of an entry's object, for messages. */
  String nameOf(long number);
}
