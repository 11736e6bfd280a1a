/**
 * Statistics of a table's values, by sketches that merge. Its invariant: what is measured is exact
 * or has the error that is told with it.
 *
 * <p>Uses data, error, expr, filter, layout, read, report, rows, table.
 */
package org.ysteron.internal.measure;
