/**
 * Owns the way from a parsed query to steps: names and types by Apache Calcite, its rewriting
 * rules, and the reading of what it plans as expressions and steps of ours. Its invariant: no code
 * of the planner computes a value.
 *
 * <p>Uses all rooms below it and the core.
 */
package org.ysteron.sql.plan;
