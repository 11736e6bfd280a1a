/**
 * Owns what conditions mean: three-valued on values, on batches and on ranges. Its invariant: what
 * a range says can never contradict what the rows say; in doubt a range keeps the rows.
 *
 * <p>Uses compute, data, error, evaluate, expr, report, rows, text, typing.
 */
package org.ysteron.internal.filter;
