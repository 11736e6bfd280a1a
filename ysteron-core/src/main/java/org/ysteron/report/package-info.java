/**
 * What calls tell of what they did or found: commits, versions, tables, files, changes, plans. Its
 * invariant: all of it is immutable, and nothing in it can be used to change a lake.
 *
 * <p>Uses data, error.
 */
package org.ysteron.report;
