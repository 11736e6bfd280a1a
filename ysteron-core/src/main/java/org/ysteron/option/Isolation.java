package org.ysteron.option;

/** The isolation level of a transaction. */
public enum Isolation {
  /**
   * The result is as if transactions ran one after the other. A commit is a conflict if other
   * commits changed what this transaction has read.
   */
  SERIALIZABLE,

  /**
   * All reads see the state at the start of the transaction, and two concurrent transactions cannot
   * change the same row. Rows that were only read may have been changed by other commits. Keys that
   * a merge inserts are still tested.
   */
  SNAPSHOT
}
