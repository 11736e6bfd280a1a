package org.ysteron.option;

/** How the rows that a change removes from a data file go. */
public enum ChangeStyle {
  /** By the share of the file's rows, see the table property {@code rewrite.percent}. */
  BY_SHARE,

  /** By a row mask: small, fast writes. */
  MASK,

  /** By writing the file's other rows anew: fast reads. */
  REWRITE
}
