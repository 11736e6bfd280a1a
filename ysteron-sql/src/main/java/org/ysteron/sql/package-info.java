/**
 * Owns SQL for programs: queries on lakes. Its invariant: what is said here is ISO SQL; all forms
 * of our own are in docs/sql.md.
 *
 * <p>Uses the core, {@code text}, {@code plan} and {@code run}.
 */
@NullMarked
package org.ysteron.sql;

import org.jspecify.annotations.NullMarked;
