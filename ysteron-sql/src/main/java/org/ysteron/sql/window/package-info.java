/**
 * Owns window functions: in which order rows are, which of them a frame has, and what is computed
 * of it, in memory or over files. Its invariant: what a function says of a row does not depend on
 * where the rows are kept.
 *
 * <p>Uses the rooms {@code run}, {@code aggregate} and {@code keep}, and the core.
 */
package org.ysteron.sql.window;
