/**
 * Owns compaction: which files are packed with which others, and packing them in several commits
 * beside writers; and what is to be said of a table's health. Its invariants: no row changes, each
 * keeps its serial and birth; every commit stands by itself; over a table's life a row is written
 * anew a bounded number of times.
 *
 * <p>Uses commit, error, expr, filter, layout, option, read, report, statement, store, table,
 * transact, tree, write.
 */
package org.ysteron.internal.upkeep;
