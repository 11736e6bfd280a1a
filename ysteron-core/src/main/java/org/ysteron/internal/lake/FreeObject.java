package org.ysteron.internal.lake;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.store.ObjectStore;

/**
 * An object that nothing needs since a commit; it may be deleted once no writer that started before
 * that can commit any more.
 *
 * @param entry the entry from which on nothing needs it
 * @param name its name in the store
 * @param bytes its size
 * @param unread what a later program says of it
 */
public record FreeObject(long entry, String name, long bytes, Unread unread) {

  /** An object that is free from an entry on. */
  public static FreeObject of(long entry, String name, long bytes) {
    return new FreeObject(entry, name, bytes, Unread.NOTHING);
  }

  /** Whether all objects of a directory are meant, those to come included. */
  public boolean isDirectory() {
    return name.endsWith("/");
  }

  /** All objects that are in the directory that is meant. */
  public List<StartedObject> inDirectory(ObjectStore store) {
    return StartedObject.in(store, name.substring(0, name.length() - 1), 0, Long.MAX_VALUE);
  }

  /** The key, by which those that were free first come first. */
  public byte[] key() {
    byte[] text = name.getBytes(StandardCharsets.UTF_8);
    return ByteBuffer.allocate(8 + text.length).putLong(entry).put(text).array();
  }

  /** Pages of what is free, by entry and name. */
  static final class Format extends RecordFormat<FreeObject> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(9);
    }

    @Override
    protected void write(FreeObject value, ByteOut out, PagePlace place) {
      out.varint(value.entry).text(value.name).varint(value.bytes);
      value.unread.write(out);
    }

    @Override
    protected FreeObject read(ByteIn in, PagePlace place) {
      return new FreeObject(in.varint(), in.text(), in.varint(), Unread.rest(in));
    }

    @Override
    public long time(FreeObject value) {
      return 0;
    }
  }
}
