package org.ysteron.internal.commit;

import java.util.List;
import java.util.UUID;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;

/**
 * A lake as of one entry of its ledger. Immutable.
 *
 * @param entry the entry, as later ones will remember it
 * @param headLength bytes of its lines, whose SHA-256 is its hash; 0 when only remembered
 * @param mustRead features that a reader must know
 * @param mustWrite features that a writer must know
 * @param page the lake page
 * @param pageRef where the lake page is
 */
public record LakeState(
    EntryRecord entry,
    int headLength,
    List<String> mustRead,
    List<String> mustWrite,
    LakePage page,
    PageRef pageRef) {

  /** The lake's id for life. */
  public UUID lakeId() {
    return page.lakeId();
  }

  /** The entry's number. */
  public long number() {
    return entry.number();
  }

  /** The entry's hash. */
  public String hash() {
    return entry.hash();
  }

  /** The last commit of the entry. */
  public CommitStamp commit() {
    return entry.last();
  }
}
