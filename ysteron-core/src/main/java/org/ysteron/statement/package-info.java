/**
 * Owns statements that change rows: selecting them, deleting, updating, rewriting, lifting
 * leftovers into columns, and whether rows go by mask or by rewriting. It may use the transact room
 * and below. Its invariants: a statement is taken by its transaction as a whole, at its end, and a
 * row that is changed or moved keeps its serial.
 */
package org.ysteron.statement;
