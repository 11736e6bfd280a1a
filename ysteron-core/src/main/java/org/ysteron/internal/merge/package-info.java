/**
 * Owns merging a source into a table: its rows, spooled, the keys that match them, and the clauses
 * that say what becomes of a row. Its invariants: the source is read before anything is changed, a
 * row of the table is matched by one row of the source at most, and memory grows with neither side.
 *
 * <p>Uses compute, data, error, evaluate, expr, file, filter, keys, option, progress, read, report,
 * rows, statement, table, text, transact, tree, typing, work, write.
 */
package org.ysteron.internal.merge;
