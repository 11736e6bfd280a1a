/**
 * Owns compaction: which files are packed with which others, and packing them in several commits
 * beside writers; what is to be said of a table's health; letting versions expire, and sweeps. Its
 * invariants: no row changes, each keeps its serial and birth; every commit stands by itself; over
 * a table's life a row is written anew a bounded number of times.
 *
 * <p>Uses changes, commit, copying, error, expr, filter, lake, layout, maintenance, option,
 * progress, read, report, statement, store, table, text, transact, tree, work, write.
 */
package org.ysteron.internal.upkeep;
