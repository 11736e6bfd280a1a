/**
 * What a user of the library works with: lakes, tables, transactions, scans, statements. This room
 * is thin: it resolves names and versions and hands the work to the rooms below. Its invariant:
 * every object handed out is either pinned to one version or says that it follows the newest one.
 *
 * <p>Uses changes, check, commit, compare, data, drift, erase, error, expr, filter, form, history,
 * keys, lake, layout, maintenance, measure, merge, option, position, progress, proof, read, remote,
 * report, rows, statement, store, table, task, text, transact, tree, upkeep, work, write.
 */
@NullMarked
package org.ysteron;

import org.jspecify.annotations.NullMarked;
