/**
 * Owns pages and the persistent page tree: reading and checking them, changing a tree by writing
 * the path that changed, and comparing two trees by what they do not share. Its invariants: a page
 * never changes, every page that is read is checked against the hash in its reference, a page means
 * the same in whatever object it stands, nobody sees the pages of another's unfinished commit, and
 * all leaves of a tree are equally deep.
 *
 * <p>Uses bytes, error, report, store, text, work.
 */
package org.ysteron.internal.tree;
