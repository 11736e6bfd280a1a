/**
 * Owns reading: which files, row groups and pages a condition leaves, and their rows as batches. It
 * may use the table and file rooms and below. Its invariants: what is skipped cannot hold a row
 * that passes, and at most as many files are open as there are threads.
 */
package org.ysteron.read;
