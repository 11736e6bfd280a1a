/**
 * Owns copying pages forward: what is still needed of old entries, or of old objects of pages,
 * comes into new ones, in bounded steps of their own commits beside writers, so that a floor can be
 * set. Its invariants: nothing that is read changes; what was copied is used whatever others commit
 * meanwhile; a floor is set only when nothing refers to what is below it.
 *
 * <p>Uses commit, error, lake, store, table, tree.
 */
package org.ysteron.internal.copying;
