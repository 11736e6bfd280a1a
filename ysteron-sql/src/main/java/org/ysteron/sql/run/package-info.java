/**
 * Owns the steps of queries: how rows are filtered, computed, grouped, joined, sorted and counted,
 * on batches. Its invariant: a step says how much memory it keeps, and knows no text and no
 * planner.
 *
 * <p>Uses the core.
 */
package org.ysteron.sql.run;
