package org.ysteron.internal.filter;

import org.ysteron.data.Field;
import org.ysteron.data.Vector;

/**
 * A test of the values of one column, which also decides for words of a dictionary. Immutable, safe
 * for many threads.
 */
public interface ColumnTest {

  /** The column. */
  Field field();

  /** Whether null passes; the other answers are for values that are not null. */
  boolean passesNull();

  /** Whether a value passes that is held as a whole number; doubles in the order of numbers. */
  boolean passes(long value);

  /** Whether a value passes that is held as bytes. */
  boolean passes(byte[] data, int start, int end);

  /**
   * Narrows a selection of the rows of a vector.
   *
   * @param to gets the positions of those that pass; may be the array of rows itself
   * @return how many pass
   */
  int select(Vector vector, int[] rows, int count, int[] to);
}
