package org.ysteron.cli;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.store.ForwardingInput;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/** Counts what a command reads and writes, for who waits for it. */
final class WatchedStore extends ForwardingStore {
  private final AtomicLong read = new AtomicLong();
  private final AtomicLong written = new AtomicLong();
  private final AtomicLong opened = new AtomicLong();
  private final AtomicLong deleted = new AtomicLong();

  WatchedStore(ObjectStore target) {
    super(target);
  }

  /** What was done so far, for people. */
  String told() {
    long gone = deleted.get();
    return "read %s, opened %s, wrote %s%s"
        .formatted(
            Listing.bytes(read.get()),
            Listing.count(opened.get(), "file", "files"),
            Listing.bytes(written.get()),
            gone == 0 ? "" : ", deleted " + Listing.count(gone, "object", "objects"));
  }

  @Override
  public void delete(String name) {
    super.delete(name);
    deleted.incrementAndGet();
  }

  private byte[] counted(byte[] bytes) {
    read.addAndGet(bytes.length);
    return bytes;
  }

  @Override
  public byte[] read(String name) {
    return counted(super.read(name));
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    return counted(super.readRange(name, offset, length));
  }

  @Override
  public ObjectInput open(String name) {
    ObjectInput input = super.open(name);
    opened.incrementAndGet();
    return new ForwardingInput(input) {
      @Override
      public void readFully(long offset, ByteBuffer target) {
        int bytes = target.remaining();
        super.readFully(offset, target);
        read.addAndGet(bytes);
      }
    };
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    boolean made = super.createIfAbsent(name, content);
    written.addAndGet(made ? content.length : 0);
    return made;
  }

  @Override
  public ObjectOutput put(String name) {
    return new ForwardingOutput(super.put(name)) {
      @Override
      public void write(int one) throws IOException {
        super.write(one);
        written.incrementAndGet();
      }

      @Override
      public void write(byte[] bytes, int from, int length) throws IOException {
        super.write(bytes, from, length);
        written.addAndGet(length);
      }
    };
  }
}
