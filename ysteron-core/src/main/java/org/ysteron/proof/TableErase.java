package org.ysteron.proof;

import java.util.function.Consumer;

/**
 * Erases rows that a condition means: from the newest version of a table and from every one that is
 * kept, and with them what was written of them elsewhere, so that nothing in the lake tells of them
 * any more. Versions keep their numbers, times and all other rows; that they were redacted their
 * history says. It cannot be undone. Immutable: each method returns another one.
 *
 * <p>Rows are meant by what they are, or were, in each version, by the columns of the newest one;
 * rows that no longer count are erased as well. The condition is stored nowhere: an erasure that
 * was interrupted goes on when it is run again with the same one. It refuses all work of others
 * that was started before and is not committed, since such rows may be in it.
 *
 * <p>{@link ErasureReport#LIMITS} says what it does not reach.
 */
public interface TableErase {

  /**
   * The same, of versions that bookmarks or readers' positions keep, too; if nothing is said, it
   * refuses then.
   */
  TableErase includingBookmarks();

  /** The same, with the authors of the table's commits; if nothing is said, only texts go. */
  TableErase withAuthors();

  /**
   * The same, when versions lack a column of the condition: their rows are tested as if it was null
   * there; if nothing is said, it refuses then.
   */
  TableErase takingMissingAsNull();

  /**
   * What would be erased; changes nothing.
   *
   * @throws org.ysteron.error.InvalidInputException when it would be refused
   */
  ErasureReport dryRun();

  /**
   * Erases, or goes on with what was interrupted.
   *
   * @throws org.ysteron.error.NotFoundException when no row is meant
   * @throws org.ysteron.error.InvalidInputException when a value of such a row is written in a
   *     check, a default or a layout, a bookmark or a position keeps a version that has such a row,
   *     a version lacks a column of the condition, or another erasure is not finished; nothing was
   *     changed
   * @throws org.ysteron.error.ConflictException when such rows are added again and again meanwhile;
   *     run it again
   */
  default ErasureReport run() {
    return run(report -> {});
  }

  /**
   * Erases as {@link #run()} does, and hands the report over before the lake forgets what it says.
   *
   * @param keeper keeps the report; when it fails, the erasure stays unfinished, and the report is
   *     handed over again when it is run again with the same condition
   */
  ErasureReport run(Consumer<ErasureReport> keeper);

  /**
   * Lets go of an erasure that was interrupted and whose condition nobody knows any more. What it
   * did stands.
   *
   * @throws org.ysteron.error.NotFoundException when there is none of this table
   */
  void giveUp();
}
