package org.ysteron.internal.commit;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.List;
import org.ysteron.internal.work.Watch;
import org.ysteron.store.ForwardingInput;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;

/**
 * A store that asks before each read, each write of data and each listing whether the call was
 * cancelled. Deletes, and what makes an object durable or visible, are not stopped: they tidy up or
 * finish.
 */
final class WatchedStore extends ForwardingStore {
  private final ObjectStore target;
  private final Watch watch;

  WatchedStore(ObjectStore target, Watch watch) {
    super(target);
    this.target = target;
    this.watch = watch;
  }

  @Override
  public byte[] read(String name) {
    watch.check();
    return super.read(name);
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    watch.check();
    return super.readRange(name, offset, length);
  }

  @Override
  public ObjectInput open(String name) {
    watch.check();
    return new ForwardingInput(super.open(name)) {
      @Override
      public void readFully(long offset, ByteBuffer into) {
        watch.check();
        super.readFully(offset, into);
      }
    };
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    watch.check();
    return super.list(directory, after, limit);
  }

  @Override
  public void deleteAll(List<String> names) {
    target.deleteAll(names);
  }

  @Override
  public ObjectOutput put(String name) {
    watch.check();
    return new ForwardingOutput(super.put(name)) {
      @Override
      public void write(byte[] bytes, int from, int length) throws IOException {
        watch.check();
        super.write(bytes, from, length);
      }
    };
  }
}
