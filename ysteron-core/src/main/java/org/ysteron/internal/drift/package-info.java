/**
 * Owns how rows whose columns are not a table's meet it: fitting named values into columns, what
 * values tell of types, and how a table grows by them. Its invariants: what a table grows to
 * depends on which rows there are, not on their order, the file they stand in, or how they are cut;
 * and no value is altered to fit.
 *
 * <p>Uses bytes, data, error, form, option, report, text, work.
 */
package org.ysteron.internal.drift;
