/**
 * Owns the ledger, who may believe what of it, and how a commit is made: optimistically, as one
 * object created only if absent. Its invariants: a commit happens whole or not at all, an outcome
 * that is unclear is never guessed, nothing below the floor is believed, and a ledger with a hole
 * or a broken link, or that of another lake, is not written to.
 *
 * <p>Uses bytes, data, error, file, form, json, lake, option, progress, read, report, store, table,
 * text, tree, work.
 */
package org.ysteron.internal.commit;
