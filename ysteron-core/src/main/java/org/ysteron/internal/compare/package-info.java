/**
 * Compares versions of a table for those who ask: their changes at once and step by step. Its
 * invariant: what is told follows from the two versions alone, not from what commits recorded.
 *
 * <p>Uses changes, commit, data, error, expr, file, filter, history, keys, lake, progress, read,
 * report, store, table, work.
 */
package org.ysteron.internal.compare;
