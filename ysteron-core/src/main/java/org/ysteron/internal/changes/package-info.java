/**
 * Owns what differs between two versions of a table: data files, and rows by serial and birth.
 * Versions are compared by their file trees, so that it costs what differs. Its invariants: a row's
 * serial and birth fix its values; where a row is, and with which others, says nothing.
 *
 * <p>Uses data, error, expr, filter, form, history, progress, read, rows, table, tree, work.
 */
package org.ysteron.internal.changes;
