/**
 * Owns how rows whose columns are not a table's meet it: the rules, fitting named values into
 * columns, what values tell of types, and how a table grows by them. It may use the table room and
 * below. Its invariants: what a table grows to depends on which rows there are, not on their order,
 * the file they stand in, or how they are cut; and no value is altered to fit.
 */
package org.ysteron.drift;
