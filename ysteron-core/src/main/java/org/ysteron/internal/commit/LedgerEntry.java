package org.ysteron.internal.commit;

import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.ysteron.internal.tree.PageRef;

/**
 * An entry of the ledger, as its own lines tell it.
 *
 * @param number its number
 * @param hash its hash, in hexadecimal digits
 * @param parent the hash of the entry before, empty for entry 0
 * @param headLength bytes of its lines
 * @param page the lake page after it
 * @param tables of each commit, the tables that it changed
 */
public record LedgerEntry(
    long number,
    String hash,
    String parent,
    int headLength,
    PageRef page,
    Map<UUID, Set<UUID>> tables) {

  static LedgerEntry of(EntryHead head) {
    Map<UUID, Set<UUID>> tables = new HashMap<>();
    for (EntryHead.CommitLines commit : head.commits()) {
      tables.put(
          commit.stamp().commitId(),
          commit.tables().stream().map(EntryHead.TableLine::id).collect(Collectors.toSet()));
    }
    return new LedgerEntry(
        head.number(), head.sum().hash(), head.parent(), head.sum().length(), head.page(), tables);
  }
}
