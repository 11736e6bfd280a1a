/**
 * Owns what a lake knows of its tables: the lake page, table pages, their forms and how those may
 * be altered, layouts, file entries, histories. It may use the tree, file and expr rooms and below.
 * Its invariants: every page here is immutable, and all that a table is at a version can be reached
 * from that version's table page.
 */
package org.ysteron.table;
