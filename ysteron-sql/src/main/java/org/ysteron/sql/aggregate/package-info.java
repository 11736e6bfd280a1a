/**
 * Owns aggregate functions: what they find of the values of each group, a batch at a time. Its
 * invariant: sums of exact numbers are exact or an error, and what a function keeps for its groups
 * is counted.
 *
 * <p>Uses the room {@code keep} and the core.
 */
package org.ysteron.sql.aggregate;
