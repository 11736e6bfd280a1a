package org.ysteron.commit;

import java.util.List;
import java.util.UUID;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.LakePage;
import org.ysteron.tree.PageRef;

/**
 * A lake as of one entry of its ledger. Immutable.
 *
 * @param lakeId the lake
 * @param commit the entry's commit
 * @param hash the entry's hash
 * @param mustRead features that a reader must know
 * @param mustWrite features that a writer must know
 * @param page the lake page
 * @param pageRef where the lake page is
 */
public record LakeState(
    UUID lakeId,
    CommitStamp commit,
    String hash,
    List<String> mustRead,
    List<String> mustWrite,
    LakePage page,
    PageRef pageRef) {

  /** The entry's number. */
  public long number() {
    return commit.entry();
  }
}
