/**
 * Owns the ledger and how a commit is made: optimistically, as one object created only if absent.
 * It may use the table room and below. Its invariants: a commit happens whole or not at all, an
 * outcome that is unclear is never guessed, and a ledger with a hole or a broken link is not
 * written to.
 */
package org.ysteron.commit;
