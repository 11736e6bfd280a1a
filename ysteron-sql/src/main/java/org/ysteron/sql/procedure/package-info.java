/**
 * Owns the procedures of schema {@code lake} and their arguments. Its invariant: a procedure does
 * what the tool's command of its name does, and its report is a result with a row for each thing
 * that was done.
 *
 * <p>Uses the rooms {@code catalog}, {@code inside}, {@code plan} and {@code text}, and the core.
 */
package org.ysteron.sql.procedure;
