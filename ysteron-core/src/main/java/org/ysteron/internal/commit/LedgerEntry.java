package org.ysteron.internal.commit;

import org.ysteron.internal.tree.PageRef;

/**
 * An entry of the ledger, as its own lines tell it.
 *
 * @param number its number
 * @param hash its hash, in hexadecimal digits
 * @param parent the hash of the entry before, empty for entry 0
 * @param headLength bytes of its lines
 * @param page the lake page after it
 */
public record LedgerEntry(long number, String hash, String parent, int headLength, PageRef page) {

  static LedgerEntry of(EntryHead head) {
    return new LedgerEntry(
        head.number(), head.sum().hash(), head.parent(), head.sum().length(), head.page());
  }
}
