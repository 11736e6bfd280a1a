package org.ysteron.bench;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.file.Path;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.ForwardingInput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/** Planning a million files on a store that takes its time for each call, against a local one. */
final class DelayedPlanBenchmark implements Main.Benchmark {
  private static final int FILES = Size.of(1_000_000, 2_000);

  private final int millis;

  DelayedPlanBenchmark(int millis) {
    this.millis = millis;
  }

  @Override
  public boolean run(Path directory) throws IOException {
    LocalStore local = new LocalStore(directory.resolve("lake"));
    UUID table;
    try (LakeCore core =
        LakeCore.create(
            local, CommitNote.standard(), new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      table = new MadeUpFiles().table(core, "bench.files", FILES);
    }
    Delayed far = new Delayed(LocalStore.existing(directory.resolve("lake")), millis);
    Timing timing =
        new Timing()
            .add(
                "plan of %,d files, local".formatted(FILES),
                () -> ManyFilesBenchmark.all(local, table, FILES))
            .add(
                "the same, %d ms a call".formatted(millis),
                () -> ManyFilesBenchmark.all(far, table, FILES))
            .run(1, 3);
    System.out.printf("calls of a plan: %d%n", far.calls.get() / 4);
    return Timing.ratio("plan with a delay / local", timing.median(1) / timing.median(0), 20);
  }

  /** Waits before each call that looks at objects; closing it keeps the store open. */
  private static final class Delayed extends ForwardingStore {
    private final int millis;
    private final AtomicLong calls = new AtomicLong();

    Delayed(ObjectStore target, int millis) {
      super(target);
      this.millis = millis;
    }

    private void await() {
      calls.incrementAndGet();
      try {
        Thread.sleep(millis);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      }
    }

    @Override
    public byte[] read(String name) {
      await();
      return super.read(name);
    }

    @Override
    public byte[] readRange(String name, long offset, int length) {
      await();
      return super.readRange(name, offset, length);
    }

    @Override
    public List<Child> list(String directory, String after, int limit) {
      await();
      return super.list(directory, after, limit);
    }

    @Override
    public ObjectInput open(String name) {
      return new ForwardingInput(super.open(name)) {
        @Override
        public void readFully(long offset, ByteBuffer target) {
          await();
          super.readFully(offset, target);
        }
      };
    }

    @Override
    public void close() {}
  }
}
