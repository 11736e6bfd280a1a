/**
 * Owns erasing rows: from every version that is kept, and whatever else in the lake tells of them.
 * Its invariants: what is not meant stays where it is, with its serial and birth; versions keep
 * their numbers and times; the condition is stored nowhere; wherever it stops, whoever knows the
 * condition goes on; it says that it is done only once it has read everything that is left.
 *
 * <p>Uses bytes, column, commit, compute, data, error, expr, file, filter, form, lake, layout,
 * option, progress, proof, read, report, rows, store, table, text, transact, tree, upkeep, work.
 */
package org.ysteron.internal.erase;
