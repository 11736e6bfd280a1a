/**
 * Owns what people read of how a query is carried out: its steps, in words of SQL, with what is
 * expected of them and what they did. Its invariant: it changes nothing of a query.
 *
 * <p>Uses the rooms {@code inside}, {@code run} and {@code keep}, and the core.
 */
package org.ysteron.sql.explain;
