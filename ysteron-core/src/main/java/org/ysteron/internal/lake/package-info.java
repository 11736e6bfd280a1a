/**
 * Owns what a lake is at an entry of its ledger: the lake page, the heads of tables with their
 * pasts, remembered entries, holds, what is free. Its invariants: the past is reached from the
 * newest lake page only, what is gone says that it has expired, and what a hold keeps is kept.
 *
 * <p>Uses bytes, data, error, form, json, maintenance, report, store, table, text, tree.
 */
package org.ysteron.internal.lake;
