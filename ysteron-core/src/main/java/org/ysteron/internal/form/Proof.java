package org.ysteron.internal.form;

/** What must hold for the rows that a table has before it can be altered so. */
public sealed interface Proof {

  /** A column is never null where what it is in is not. */
  record NoNulls(int fieldId) implements Proof {}

  /** A check is false for no row. */
  record Holds(String check) implements Proof {}

  /** No two rows have the same key. */
  record UniqueKey() implements Proof {}

  /**
   * There is no row.
   *
   * @param otherwise what cannot be done when there is one, and what can
   */
  record NoRows(String otherwise) implements Proof {}
}
