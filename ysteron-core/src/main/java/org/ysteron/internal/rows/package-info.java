/**
 * Owns rows and batches in use: gathering some rows of a batch, records bound to columns, the
 * columns that nobody asked for, a row as text. Its invariant: a batch it is given is not changed.
 *
 * <p>Uses data, error, text.
 */
package org.ysteron.internal.rows;
