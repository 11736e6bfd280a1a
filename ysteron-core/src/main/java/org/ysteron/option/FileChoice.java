package org.ysteron.option;

/**
 * Which data files of a table are wanted; metadata pages without any of them are not read.
 *
 * @param bornSince only files with a row that this commit, counted by its ordinal, or a later one
 *     inserted or changed
 * @param masked only files with deleted rows
 */
public record FileChoice(long bornSince, boolean masked) {
  /** All files. */
  public static final FileChoice ALL = new FileChoice(0, false);

  /**
   * Whether a file is wanted, or may be among some files.
   *
   * @param newestBirth the greatest birth of their rows
   * @param maskedRows how many of their rows are deleted
   */
  public boolean takes(long newestBirth, long maskedRows) {
    return newestBirth >= bornSince && (maskedRows > 0 || !masked);
  }
}
