package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.ByteBuffer;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.ysteron.option.LakeOptions;
import org.ysteron.proof.CheckDepth;
import org.ysteron.store.ForwardingInput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/** A store that fails to answer once is no damage of a lake, whichever answer it was. */
class OneFailedReadTest {
  /** Fails at one call. */
  private static final class Failing extends ForwardingStore {
    private final int at;
    private int calls;

    Failing(ObjectStore target, int at) {
      super(target);
      this.at = at;
    }

    private void call(String what) {
      if (calls++ == at) {
        throw new StoreException("The network is down: " + what);
      }
    }

    @Override
    public byte[] read(String name) {
      call(name);
      return super.read(name);
    }

    @Override
    public byte[] readRange(String name, long offset, int length) {
      call(name);
      return super.readRange(name, offset, length);
    }

    @Override
    public List<Child> list(String directory, String after, int limit) {
      call(directory);
      return super.list(directory, after, limit);
    }

    @Override
    public ObjectInput open(String name) {
      call(name);
      return new ForwardingInput(super.open(name)) {
        @Override
        public void readFully(long offset, ByteBuffer target) {
          call(name);
          super.readFully(offset, target);
        }
      };
    }
  }

  @Test
  void aCheckAndAMendThatMissAnAnswerFindNothing() throws Exception {
    MemoryStore store = new MemoryStore();
    RichLake.make(store);
    try (Lake lake = Lake.open(store)) {
      lake.sweep().now().withEntries().run();
      lake.sweep().now().withEntries().run();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
    int failed = 0;
    boolean isDone = false;
    for (int at = 0; !isDone; at++) {
      Failing failing = new Failing(store, at);
      try (Lake lake = Lake.open(failing, LakeOptions.DEFAULTS.threads(0))) {
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings())
            .as("call %d", at)
            .isEmpty();
        assertThat(lake.mend().dryRun().lost()).as("call %d", at).isEmpty();
        isDone = failing.calls <= at;
      } catch (StoreException e) {
        failed++;
      }
    }
    assertThat(failed).isGreaterThan(100);
  }
}
