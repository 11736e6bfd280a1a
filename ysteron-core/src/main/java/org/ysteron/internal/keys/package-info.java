/**
 * Owns finding rows by their keys: hashes and indexes of keys, bounds that leave files out, scans
 * of key columns, the keys that a write brings, rows that share one. Its invariants: two different
 * keys are never taken for one, whatever their hashes, and memory does not grow with the keys.
 *
 * <p>Uses data, error, expr, filter, form, option, progress, read, report, rows, table, tree, work.
 */
package org.ysteron.internal.keys;
