/**
 * Owns the byte forms of tasks, staged rows and staged changes, and applying a staged change as a
 * transaction. Its invariants: a form that is not whole is refused, and a staged change is tested
 * against what came since as any transaction is.
 *
 * <p>Uses bytes, changes, column, commit, data, error, expr, file, filter, form, json, lake,
 * option, read, report, rows, statement, store, table, transact, tree.
 */
package org.ysteron.internal.remote;
