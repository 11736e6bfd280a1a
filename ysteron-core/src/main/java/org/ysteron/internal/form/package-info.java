/**
 * Owns what a table takes: schema, checks, key and layout together, altering them, comparing two of
 * them, what is to be proved of the rows first. Its invariant: an alteration is applied whole or
 * refused with a reason, and no column's id is given twice.
 *
 * <p>Uses bytes, compute, data, error, evaluate, expr, filter, json, layout, option, text, typing.
 */
package org.ysteron.internal.form;
