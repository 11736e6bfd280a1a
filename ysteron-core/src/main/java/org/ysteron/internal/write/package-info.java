/**
 * Owns rows on their way into staged files: checking them, parting and sorting them by the layout,
 * spilling what memory does not hold. It knows a store and workers, no lake. Its invariants: a row,
 * or a batch, that is refused is left out exactly, what fails ends the writer, and nothing of it is
 * in a table before a commit says so.
 *
 * <p>Uses bytes, column, compute, data, drift, error, expr, file, filter, form, keys, layout,
 * option, rows, store, table, text, work.
 */
package org.ysteron.internal.write;
