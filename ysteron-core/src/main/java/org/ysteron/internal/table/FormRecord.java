package org.ysteron.internal.table;

import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.tree.PagePlace;

/**
 * A schema or a layout that a table had before.
 *
 * @param number its version
 * @param last the last version of the table that had it
 * @param json what it was, as in a version page
 * @param unread what a later program says of it
 */
public record FormRecord(long number, long last, String json, Unread unread) {

  FormRecord(long number, long last, String json) {
    this(number, last, json, Unread.NOTHING);
  }

  byte[] key() {
    return VersionPage.versionKey(number);
  }

  /** Pages of older schemas or layouts, by version. */
  static final class Format extends RecordFormat<FormRecord> {
    static final Format SCHEMAS = new Format(7);
    static final Format LAYOUTS = new Format(8);

    private Format(int code) {
      super(code);
    }

    @Override
    protected void write(FormRecord value, ByteOut out, PagePlace place) {
      out.varint(value.number).varint(value.last).text(value.json);
      value.unread.write(out);
    }

    @Override
    protected FormRecord read(ByteIn in, PagePlace place) {
      return new FormRecord(in.varint(), in.varint(), in.text(), Unread.rest(in));
    }

    @Override
    public long time(FormRecord value) {
      return 0;
    }
  }
}
