package org.ysteron.table;

import java.util.HexFormat;
import org.ysteron.data.Values;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * An entry of the ledger, as later entries remember it.
 *
 * @param commit who, when, why
 * @param hash the entry's hash, in hexadecimal digits
 * @param page the lake page of that entry
 */
public record EntryRecord(CommitStamp commit, String hash, PageRef page) {

  /** Pages of entries by number. */
  static final class Format extends RecordFormat<EntryRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(5);
    }

    @Override
    void write(EntryRecord value, ByteOut out, PageHome home) {
      value.commit.write(out);
      out.raw(HexFormat.of().parseHex(value.hash));
      value.page.write(out, home);
    }

    @Override
    EntryRecord read(ByteIn in, PageHome home) {
      return new EntryRecord(
          CommitStamp.read(in), HexFormat.of().formatHex(in.raw(32)), PageRef.read(in, home));
    }

    @Override
    long time(EntryRecord value) {
      return Values.micros(value.commit.time());
    }
  }
}
