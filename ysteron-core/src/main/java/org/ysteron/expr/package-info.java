/**
 * Conditions on rows. Their evaluation on values, batches and ranges is in the filter room. Its
 * invariant: the text of a condition can be parsed back to the same condition.
 *
 * <p>Uses data, error, text.
 */
@NullMarked
package org.ysteron.expr;

import org.jspecify.annotations.NullMarked;
