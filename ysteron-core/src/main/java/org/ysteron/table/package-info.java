/**
 * Owns what a lake knows of its tables: the lake page, heads and version pages, their forms and how
 * those may be altered, layouts, file entries, histories. It may use the tree, file and expr rooms
 * and below. Its invariants: every page here is immutable and was read back before it counted, all
 * that a table is at a version can be reached from that version's page, and the past is reached
 * from the newest lake page only.
 */
package org.ysteron.table;
