/**
 * Owns what a lake knows of a table at a version: version pages, file entries, row masks,
 * histories. Its invariants: every page here is immutable and was read back before it counted, all
 * that a table is at a version can be reached from that version's page, and the past is reached
 * from the newest lake page only.
 *
 * <p>Uses bytes, column, data, error, expr, filter, form, json, layout, option, report, rows, tree.
 */
package org.ysteron.internal.table;
