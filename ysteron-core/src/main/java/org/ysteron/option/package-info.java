/**
 * What a caller chooses: alterations of a table, its layout and settings, how rows that do not have
 * its columns are met, how transactions see each other. Its invariant: all of it is immutable and
 * says nothing of a particular lake.
 *
 * <p>Uses data, error, expr, text.
 */
package org.ysteron.option;
