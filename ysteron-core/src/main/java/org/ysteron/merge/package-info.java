/**
 * Owns merging a source into a table: its rows, spooled, the keys that match them, and the clauses
 * that say what becomes of a row. It may use the statement room and below. Its invariants: the
 * source is read before anything is changed, a row of the table is matched by one row of the source
 * at most, and memory grows with neither side.
 */
package org.ysteron.merge;
