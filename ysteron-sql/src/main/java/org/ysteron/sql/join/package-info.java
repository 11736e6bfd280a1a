/**
 * Owns joins by hashing: which side is kept, how the other one is restricted by its keys, and how
 * both go to files by their keys when they do not fit in memory. Its invariant: a null meets
 * nobody, unless the join says so.
 *
 * <p>Uses the rooms {@code run}, {@code aggregate} and {@code keep}, and the core.
 */
package org.ysteron.sql.join;
