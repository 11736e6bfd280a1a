/**
 * Owns what a transaction did and read, and how it meets what was committed since it started:
 * changes of tables, their effects and reads, keys and proofs to be tested again, conflicts, named
 * writers. Its invariants: a change that cannot be made whole leaves neither a version nor a data
 * file behind, a change can be applied again to a newer state, and nothing is deleted while it is
 * not known whether a commit happened.
 *
 * <p>Uses changes, column, commit, data, drift, error, expr, filter, form, keys, lake, layout,
 * option, report, rows, seen, table, tree, write.
 */
package org.ysteron.internal.transact;
