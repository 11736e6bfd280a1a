/**
 * Owns rows on their way into staged files: checking them, parting and sorting them by the layout,
 * spilling what memory does not hold. It may use the keys room and below. Its invariants: a row, or
 * a batch, that is refused is left out exactly, what fails ends the writer, and nothing of it is in
 * a table before a commit says so.
 */
package org.ysteron.write;
