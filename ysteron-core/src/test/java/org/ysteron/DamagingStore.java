package org.ysteron;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.BitSet;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ShortObjectException;

/** Hands out one object changed, cut short, or not at all. */
final class DamagingStore extends ForwardingStore {
  private String damaged = "";
  private byte[] content;
  private boolean gone;

  DamagingStore() {
    super(new MemoryStore());
  }

  void damage(String name, byte[] bytes) {
    damaged = name;
    content = bytes;
    gone = false;
  }

  void remove(String name) {
    damaged = name;
    gone = true;
  }

  final Map<String, BitSet> used = new TreeMap<>();

  /** Notes which bytes were asked for; of an entry that is opened only its lines are looked at. */
  private void use(String name, long from, long to) {
    used.computeIfAbsent(name, n -> new BitSet()).set((int) from, (int) to);
  }

  private static int lines(byte[] entry) {
    String text = new String(entry, StandardCharsets.ISO_8859_1);
    return text.indexOf('\n', text.indexOf("\n{\"head\":") + 1) + 1;
  }

  @Override
  public byte[] read(String name) {
    if (!name.equals(damaged)) {
      byte[] all = super.read(name);
      use(name, 0, name.startsWith("ledger/") ? lines(all) : all.length);
      return all;
    }
    if (gone) {
      throw new MissingObjectException(name, location());
    }
    return content.clone();
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    if (!name.equals(damaged)) {
      use(name, offset, offset + length);
      return super.readRange(name, offset, length);
    }
    return open(name).read(offset, length);
  }

  @Override
  public ObjectInput open(String name) {
    if (!name.equals(damaged)) {
      ObjectInput all = super.open(name);
      use(name, 0, name.startsWith("ledger/") ? lines(super.read(name)) : all.size());
      return all;
    }
    byte[] bytes = read(name);
    return new ObjectInput() {
      @Override
      public long size() {
        return bytes.length;
      }

      @Override
      public void readFully(long offset, ByteBuffer target) {
        int length = target.remaining();
        if (offset + length > bytes.length) {
          throw new ShortObjectException(name, location(), bytes.length, offset + length);
        }
        target.put(bytes, (int) offset, target.remaining());
      }

      @Override
      public void close() {}
    };
  }
}
