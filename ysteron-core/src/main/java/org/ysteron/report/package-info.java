/**
 * Results of calls: commits, versions, tables, files, changes, plans. Its invariant: results are
 * immutable, and nothing in them can be used to change a lake.
 *
 * <p>Uses data, error.
 */
@NullMarked
package org.ysteron.report;

import org.jspecify.annotations.NullMarked;
