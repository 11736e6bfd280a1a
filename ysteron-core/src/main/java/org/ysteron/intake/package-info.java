/**
 * Owns reading outside files into rows: CSV and JSON lines, strictly. It may use the drift room and
 * below. Its invariants: an error names file, line and column, and a file that cannot be read whole
 * brings no row in.
 */
package org.ysteron.intake;
