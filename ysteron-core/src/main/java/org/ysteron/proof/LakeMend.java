package org.ysteron.proof;

/**
 * Takes data files that are lost or damaged out of the newest versions of tables, so that these can
 * be read again, without the rows of those files. It is a commit like any other, {@code mend} in
 * the history; earlier versions stay as they are, and cannot be read where they have such a file,
 * until they expire or the file is put back.
 *
 * <p>Where pages are lost, what a table knows of its past is built anew from what can be read: the
 * versions that need a lost page are gone then, as if they had expired, and when the newest is
 * among them, what is left of it becomes the next version, without the files that only a lost page
 * knew; or, when its form is lost, the newest one before it that can be read. What it remembered of
 * named writers may be lost with them. Immutable: each method returns another one.
 */
public interface LakeMend {

  /**
   * The same, which finds damage as a check to that depth does; files that are there are opened.
   */
  LakeMend to(CheckDepth depth);

  /** What would be taken out or let go; changes nothing. */
  MendReport dryRun();

  /**
   * Takes them out, each table in a commit of its own.
   *
   * @throws org.ysteron.error.ConflictException when others change such files meanwhile; tables
   *     before that one are mended
   */
  MendReport run();
}
