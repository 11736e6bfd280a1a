/**
 * Options: alterations of a table, layouts, settings, drift rules, isolation of transactions. Its
 * invariant: options are immutable and independent of a particular lake.
 *
 * <p>Uses data, error, expr, text.
 */
@NullMarked
package org.ysteron.option;

import org.jspecify.annotations.NullMarked;
