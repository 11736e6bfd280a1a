package org.ysteron.option;

/** What a transaction is promised about what others commit while it is at work. */
public enum Isolation {
  /**
   * The outcome is as if transactions had come one after the other: a commit is refused when what
   * this transaction read would read differently now.
   */
  SERIALIZABLE,

  /**
   * All reads see the state from which the transaction started, and no row is changed by two
   * transactions at once; what was only read may have been changed by others meanwhile. The keys
   * that a merge inserts are tested all the same.
   */
  SNAPSHOT
}
