/**
 * Owns the positions of named readers: setting, moving and dropping them, and the changes that a
 * reader has yet to read. Its invariant: a position is moved by the very commit that has what was
 * made of the changes, and only from where it stood when they were read.
 *
 * <p>Uses commit, compare, error, history, lake, report, table, text, transact, tree.
 */
package org.ysteron.internal.position;
