/**
 * Owns a table as a transaction sees it: the version that it started from, what was done to rows
 * since, the draft with both, and the proofs of keys and constraints on it. Its invariants: a draft
 * is never stored, and numbers, serials and births that it gives out are given anew at the commit.
 *
 * <p>Uses changes, commit, data, error, expr, filter, form, keys, layout, option, progress, read,
 * report, rows, table, text, tree, work, write.
 */
package org.ysteron.internal.seen;
