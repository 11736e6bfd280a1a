/**
 * What happened to a table: {@link org.ysteron.history.Changes} between any two versions, row by
 * row, counted or summed up, at once or step by step.
 *
 * <p>Uses data, expr, report, work.
 */
@NullMarked
package org.ysteron.history;

import org.jspecify.annotations.NullMarked;
