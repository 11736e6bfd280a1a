package org.ysteron.history;

import java.util.List;

/**
 * Up to where a named reader has read, and what it has yet to read, inside a transaction. The
 * changes are those from where the position stands to the state at which the transaction started;
 * {@link #move} puts the position there by the commit of the transaction. So what the transaction
 * writes and the move happen together or not at all, and each change is processed exactly once.
 *
 * <pre>{@code
 * lake.runInTransaction(Isolation.SNAPSHOT, work -> {
 *   ReaderPosition position = work.position("bulletin");
 *   Changes changes = position.changes("tide.readings");
 *   work.table("tide.bulletins").add(...);   // made of the changes
 *   position.move();
 * });
 * }</pre>
 *
 * <p>Two that move one position at once: one commit wins. The other one is a {@link
 * org.ysteron.error.ConflictException}; {@code runInTransaction} then runs its work again, from
 * where the position stands then. Reading the changes is no tracked read: other commits to the
 * tables are no conflict. What the transaction itself writes to a table of the position is told the
 * next time.
 */
public interface ReaderPosition {

  /** Its name. */
  String name();

  /** The ledger entry of the state up to which it has read. */
  long entry();

  /** The names that its tables have now, also of those that were dropped. */
  List<String> tables();

  /**
   * The names of those of its tables that were dropped; the id of one that has expired as a whole.
   * They are told until the position is moved, which takes them out of it.
   */
  List<String> droppedTables();

  /** Whether none of its tables has another version than the one that was read. */
  boolean isEmpty();

  /**
   * What it has yet to read of a table. Of a dropped table it is what happened until it was
   * dropped.
   *
   * @param table the name that the table has now; a renamed table is the same one
   * @throws org.ysteron.error.NotFoundException when the position has no such table
   * @throws org.ysteron.error.ExpiredException when the version that was read last has expired,
   *     which can happen only after the position's limit; it tells what was missed
   */
  Changes changes(String table);

  /**
   * Moves the position to the state at which the transaction started, when the transaction is
   * committed. When none of its tables has another version and less than a quarter of its limit is
   * over, nothing is written for it.
   *
   * @throws org.ysteron.error.InvalidInputException when the transaction has moved or set it before
   * @throws org.ysteron.error.ExpiredException when changes were missed; set it anew then
   */
  void move();
}
