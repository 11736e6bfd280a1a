/**
 * Owns computing with the values of batches: typed expressions as kernels that take vectors and
 * give vectors, and typed conditions as tests that narrow a selection of rows. Its invariants: only
 * selected rows can fail, a result that does not fit is an error, and vectors that come in are
 * never written to.
 *
 * <p>Uses bytes, data, error, expr, rows, text, typing.
 */
package org.ysteron.internal.compute;
