/**
 * Conditions on rows, as they are written. What they mean for values, batches and ranges is in the
 * filter room. Its invariant: the text of a condition is one that is read as that condition.
 *
 * <p>Uses data, error, filter, text.
 */
package org.ysteron.expr;
