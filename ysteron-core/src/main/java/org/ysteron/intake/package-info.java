/**
 * Reading outside files into rows: CSV and JSON lines, strictly. Its invariants: an error names
 * file, line and column, and a file that cannot be read whole brings no row in.
 *
 * <p>Uses data, error, text.
 */
package org.ysteron.intake;
