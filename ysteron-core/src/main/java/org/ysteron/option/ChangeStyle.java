package org.ysteron.option;

/** How a change removes rows from a data file. */
public enum ChangeStyle {
  /**
   * By mask or by rewriting, depending on the share of the file's rows: see the table setting
   * {@code rewrite.percent}.
   */
  BY_SHARE,

  /** By a row mask (merge-on-read): small, fast writes. */
  MASK,

  /** By rewriting the file without them (copy-on-write): fast reads. */
  REWRITE
}
