/**
 * Owns compaction: which files are packed with which others, and packing them in several commits
 * beside writers; what is to be said of a table's health; and measuring what its values are like.
 * Its invariants: no row changes, each keeps its serial and birth; every commit stands by itself;
 * over a table's life a row is written anew a bounded number of times.
 *
 * <p>Uses commit, copying, data, error, expr, filter, lake, layout, option, read, report, rows,
 * statement, store, table, text, transact, tree, write.
 */
package org.ysteron.internal.upkeep;
