package org.ysteron.internal.commit;

import java.util.List;
import java.util.UUID;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;

/** The entry that makes a lake. */
final class FirstEntry {
  private FirstEntry() {}

  /** Writes it; false when another one is there already. */
  static boolean write(Ledger ledger, Stamps stamps, CommitNote note) {
    UUID lakeId = UUID.randomUUID();
    PageBatch batch = new PageBatch();
    PageRef page = LakePage.create(lakeId).write(batch);
    CommitStamp stamp = stamps.first(note);
    EntryHead head =
        new EntryHead(
            lakeId,
            0,
            stamp.time(),
            0,
            "",
            List.of(),
            List.of(),
            List.of(new EntryHead.CommitLines(stamp, note.labels(), List.of())),
            page,
            EntryHead.Sum.NONE);
    byte[] own = batch.toByteArray();
    byte[] entry = new ByteOut().raw(head.encode(own.length, batch.next())).raw(own).toByteArray();
    return ledger.create(0, entry) || ledger.read(0, entry.length).isWholly(entry);
  }
}
