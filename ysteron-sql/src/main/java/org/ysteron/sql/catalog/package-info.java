/**
 * Owns what a statement names: tables of the lake, versions of them, changes, files outside,
 * temporary views; their columns and types as the planner knows them. Its invariant: all tables of
 * a statement are of one state of the lake, and only those are looked up that it names.
 *
 * <p>Uses the rooms {@code inside}, {@code run}, {@code keep} and {@code text}, and the core.
 */
package org.ysteron.sql.catalog;
