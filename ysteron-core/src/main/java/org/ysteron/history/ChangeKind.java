package org.ysteron.history;

/** What happened to a row between two versions of its table. */
public enum ChangeKind {
  /** The row is in the later version only. */
  INSERTED,
  /** The row is in the earlier version only. */
  DELETED,
  /** The row is in both versions, with other values. */
  UPDATED,
  /** The row is in both versions with the same values; told only when it is asked for. */
  UNCHANGED
}
