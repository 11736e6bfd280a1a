package org.ysteron.proof;

/** How deep a check goes. Each depth includes those before it. */
public enum CheckDepth {
  /** Entries and pages: all that tells what there is. */
  METADATA,

  /** Data files, too: that each is there, has its size, a whole footer and its rows. */
  FILES,

  /** Every byte of everything. */
  BYTES,

  /**
   * The rows of the newest version of each table, too: that they are within the ranges that are
   * known of them, each serial is there once, keys are unique and constraints are true.
   */
  ROWS
}
