/**
 * Owns statements that change rows: selecting them, deleting, updating, rewriting, lifting
 * leftovers into columns, and whether rows go by mask or by rewriting. Its invariants: a statement
 * is taken by its transaction as a whole, at its end, and a row that is changed or moved keeps its
 * serial.
 *
 * <p>Uses changes, commit, compute, data, drift, error, evaluate, expr, filter, lake, option,
 * progress, read, report, rows, table, text, transact, tree, typing, work, write.
 */
package org.ysteron.internal.statement;
