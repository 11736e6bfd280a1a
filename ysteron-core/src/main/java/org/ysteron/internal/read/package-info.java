/**
 * Owns reading: which files, row groups and pages a condition leaves, and their rows as batches.
 * Its invariants: what is skipped cannot hold a row that passes, and at most as many files are open
 * as there are threads.
 *
 * <p>Uses compute, data, error, expr, file, filter, layout, progress, report, rows, store, table,
 * tree, work.
 */
package org.ysteron.internal.read;
