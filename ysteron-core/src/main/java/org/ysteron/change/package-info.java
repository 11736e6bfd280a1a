/**
 * Owns what commits do to tables: creating, dropping, renaming, appending. It may use the commit
 * room and below, and the file room to write. Its invariants: a change that cannot be made whole
 * leaves neither a version nor a data file behind, and a change can be applied again to a newer
 * state.
 */
package org.ysteron.change;
