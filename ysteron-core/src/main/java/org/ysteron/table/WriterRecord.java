package org.ysteron.table;

import java.nio.charset.StandardCharsets;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageHome;

/**
 * What a table remembers of a named writer.
 *
 * @param name the writer
 * @param session the number of the session that may write; each one opened is one higher
 * @param sequence the last sequence number that was applied, or -1
 * @param digest what was applied under it, in hexadecimal digits; empty before the first
 */
public record WriterRecord(String name, long session, long sequence, String digest) {

  byte[] key() {
    return name.getBytes(StandardCharsets.UTF_8);
  }

  /** Pages of a table's named writers, by name. */
  static final class Format extends RecordFormat<WriterRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(6);
    }

    @Override
    void write(WriterRecord value, ByteOut out, PageHome home) {
      out.text(value.name).varint(value.session).signed(value.sequence).text(value.digest);
    }

    @Override
    WriterRecord read(ByteIn in, PageHome home) {
      return new WriterRecord(in.text(), in.varint(), in.signed(), in.text());
    }

    @Override
    long time(WriterRecord value) {
      return 0;
    }
  }
}
