/**
 * Owns tables that no data file holds: what a lake consists of (schema {@code lake}), the
 * information schema of ISO, changes between versions, and files outside of the lake. Its
 * invariant: rows are made while they are asked for, and what a condition leaves out is not read.
 *
 * <p>Uses the rooms {@code keep} and {@code text}, and the core.
 */
package org.ysteron.sql.inside;
