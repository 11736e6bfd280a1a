package org.ysteron.proof;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * What an erasure did, to be kept and signed.
 *
 * @param lake the lake
 * @param table the table's name
 * @param tableId its id
 * @param files data files that have such rows, of whatever version
 * @param rows states of rows that some version contains; states that no version contains any more
 *     are erased, too, and not counted
 * @param versions versions that contain such rows
 * @param bookmarks the names of bookmarks that keep versions with such rows, and of positions, as
 *     "position hourly"
 * @param done how it was done; empty after a dry run
 */
public record ErasureReport(
    UUID lake,
    String table,
    UUID tableId,
    long files,
    long rows,
    long versions,
    List<String> bookmarks,
    Optional<Done> done) {

  /** What an erasure does not reach, for people. */
  public static final List<String> LIMITS =
      List.of(
          "Copies of the lake, backups, logs, query results and caches outside the lake keep the rows.",
          "Other tables keep their rows. Of them, only notes and statements of commits that changed this table too are redacted.",
          "The names of the table, its columns, bookmarks and named writers stay. Authors stay unless they were erased as well.",
          "Hashes of ledger entries and of data from named writers stay. A person who knows all other content can test a guess against a hash.",
          "The partition of a data file stays, as a number or a hash; the remaining rows of the file have the same partition.",
          "A file that a worker writes later, for a task from before the erasure, stays until the next sweep.",
          "A storage device may keep deleted content until it is overwritten.");

  public ErasureReport {
    bookmarks = List.copyOf(bookmarks);
  }

  /**
   * How it was done.
   *
   * @param id the erasure's id
   * @param opened when it began
   * @param closed when it ended
   * @param author who began it
   * @param texts notes and statements that were redacted
   * @param before the newest entry before
   * @param after the entry of which nothing is left; the one that closes the erasure comes next
   * @param proof what was read to prove it
   * @param endsOnly whether this run only ended an erasure that was begun before, of which the lake
   *     did not know the condition any more; no row that is meant now was there
   */
  public record Done(
      UUID id,
      Instant opened,
      Instant closed,
      String author,
      long texts,
      Point before,
      Point after,
      Proof proof,
      boolean endsOnly) {}

  /**
   * An entry of the ledger.
   *
   * @param hash its hash, which proves the whole state
   */
  public record Point(long entry, String hash) {}

  /**
   * What was read after all was done: every data file of every version, all of its rows.
   *
   * @param files data files
   * @param rows rows, none of which matches
   * @param floor the oldest entry that is there
   */
  public record Proof(long files, long rows, long floor) {}
}
