/**
 * Owns looking whether a lake is whole: entries, pages, data files, rows, and whether they agree
 * with one another; and taking out of newest versions what is lost. Its invariants: a check changes
 * nothing, and calls nothing wrong that others let go meanwhile; a mend takes out only what it has
 * found to be broken itself.
 *
 * <p>Uses changes, commit, data, error, file, filter, json, keys, lake, maintenance, option,
 * progress, proof, read, report, rows, store, table, transact, tree, work.
 */
package org.ysteron.internal.check;
