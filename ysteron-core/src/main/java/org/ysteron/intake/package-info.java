/**
 * Strict reading of outside files into rows: CSV and JSON Lines. Its invariants: an error names the
 * file, line and column, and a file that cannot be read completely adds no row.
 *
 * <p>Uses data, error, progress, text, work.
 */
@NullMarked
package org.ysteron.intake;

import org.jspecify.annotations.NullMarked;
