package org.ysteron.internal.compute;

/**
 * Finds the rows for which a condition is true; unknown is not true. For one thread.
 *
 * <ul>
 *   <li>Only rows that are selected are tested, and only they can fail.
 * </ul>
 */
public abstract class RowTest {

  /**
   * Selects.
   *
   * @param to gets the positions of the rows, ascending; may be the array of selected ones itself
   * @return how many
   */
  public abstract int select(Rows rows, int[] to);
}
