/**
 * Owns the evaluation of typed expressions and conditions: for batches, for single rows, and once
 * for what is constant. Its invariant: what cannot fail is tested before what can.
 *
 * <p>Uses compute, data, expr, rows, typing.
 */
package org.ysteron.internal.evaluate;
