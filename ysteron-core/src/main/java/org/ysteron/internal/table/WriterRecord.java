package org.ysteron.internal.table;

import java.nio.charset.StandardCharsets;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.tree.PagePlace;

/**
 * What a table remembers of a named writer.
 *
 * @param name the writer
 * @param session the number of the session that may write; each one opened is one higher
 * @param sequence the last sequence number that was applied, or -1
 * @param digest what was applied under it, in hexadecimal digits; empty before the first
 * @param unread what a later program says of it
 */
public record WriterRecord(String name, long session, long sequence, String digest, Unread unread) {

  /** A writer that has applied nothing yet. */
  public static WriterRecord unknown(String name) {
    return new WriterRecord(name, 0, -1, "", Unread.NOTHING);
  }

  /** This writer with another session. */
  public WriterRecord opened() {
    return new WriterRecord(name, session + 1, sequence, digest, unread);
  }

  /** This writer after it has applied a number. */
  public WriterRecord applied(long number, String newDigest) {
    return new WriterRecord(name, session, number, newDigest, unread);
  }

  public byte[] key() {
    return name.getBytes(StandardCharsets.UTF_8);
  }

  /** Pages of a table's named writers, by name. */
  public static final class Format extends RecordFormat<WriterRecord> {
    public static final Format INSTANCE = new Format();

    private Format() {
      super(6);
    }

    @Override
    protected void write(WriterRecord value, ByteOut out, PagePlace place) {
      out.text(value.name).varint(value.session).signed(value.sequence).text(value.digest);
      value.unread.write(out);
    }

    @Override
    protected WriterRecord read(ByteIn in, PagePlace place) {
      return new WriterRecord(in.text(), in.varint(), in.signed(), in.text(), Unread.rest(in));
    }

    @Override
    public long time(WriterRecord value) {
      return 0;
    }
  }
}
