/**
 * Tasks for other machines that have only the store: parts of scans and writes, their results, and
 * staged changes that commit these. Its invariant: each value has a byte form, and only that form
 * passes between machines.
 *
 * <p>Uses data, error, expr, file, filter, read, remote, rows, store, table, work, write.
 */
@NullMarked
package org.ysteron.task;

import org.jspecify.annotations.NullMarked;
