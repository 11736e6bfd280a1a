/**
 * Owns the plans of statements that change rows: which rows a query finds, and what becomes of
 * each. Its invariant: a row of the table is told by its place, so that no row is changed twice and
 * none that the query has not found.
 *
 * <p>Uses the rooms {@code plan}, {@code catalog}, {@code run}, {@code keep} and {@code text}, and
 * the core.
 */
package org.ysteron.sql.change;
