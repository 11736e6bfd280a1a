/**
 * Parts of scans and writes that other machines do, which have the store only: tasks for them, what
 * comes back, and staged changes to commit it. Its invariant: each value has a byte form, and
 * nothing but that form passes between machines.
 *
 * <p>Uses data, error, expr, file, filter, read, remote, rows, store, table, work, write.
 */
package org.ysteron.task;
