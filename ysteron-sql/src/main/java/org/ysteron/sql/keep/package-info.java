/**
 * Owns rows that a query keeps: in memory, which is counted, and in temporary files; their keys,
 * numbered by hashing, and their orders. Its invariant: what is taken is given back, and files are
 * gone when who made them is closed.
 *
 * <p>Uses the core.
 */
package org.ysteron.sql.keep;
