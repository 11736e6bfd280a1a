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
 * @param rows rows that count in some version, each state of a row for itself; those that count in
 *     none any more were erased, too
 * @param versions versions in which something was changed; in a dry run those with such rows
 * @param bookmarks the names of those that keep a version with such rows
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
          "Copies of the lake, backups, logs, results and caches that others keep are not reached.",
          "Other tables are not reached, but for the texts of commits that changed this one, too.",
          "Names stay: of the table, its columns, bookmarks and named writers; so do authors, unless they were erased, too.",
          "Hashes stay, of entries and of what named writers sent; a guess can be tested by one, by who knows all else in it.",
          "The part of the table that a file is in is told by a number or a hash, which the rows that are left in it share.",
          "What a worker writes later, by a task from before, stays in a file of its own until the next sweep.",
          "A medium may keep what was deleted until it is written over.");

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
