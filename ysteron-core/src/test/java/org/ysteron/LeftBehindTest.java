package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Random;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.StoreException;

/** What fails halfway leaves no hidden file, and nothing that is no file of the lake is opened. */
@Timeout(120)
class LeftBehindTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));

  @TempDir Path directory;

  private Path lake() {
    return directory.resolve("lake");
  }

  private Table fill(Lake lake) {
    Table table = lake.createTable("t.x", SCHEMA);
    write(table, 0);
    return table;
  }

  private static void write(Table table, int from) {
    try (Append append = table.append()) {
      for (int i = 0; i < 20_000; i++) {
        append.add(from + i, "text " + i * 7919 % 10_007);
      }
      append.commit();
    }
  }

  private long hidden() throws IOException {
    try (Stream<Path> all = Files.walk(lake())) {
      return all.filter(path -> path.getFileName().toString().startsWith(".")).count();
    }
  }

  /** A disk that is full after so many bytes of data. */
  private static final class Filling extends ForwardingStore {
    private long left = Long.MAX_VALUE;

    Filling(Path directory) {
      super(new LocalStore(directory));
    }

    @Override
    public ObjectOutput put(String name) {
      return new ForwardingOutput(super.put(name)) {
        @Override
        public void write(byte[] bytes, int start, int length) throws IOException {
          left -= length;
          if (left < 0) {
            throw new StoreException("no space is left");
          }
          super.write(bytes, start, length);
        }

        @Override
        public void commit() {
          if (left < 100) {
            throw new StoreException("no space is left");
          }
          super.commit();
        }
      };
    }
  }

  @Test
  void aFullDiskIsNotLeftFull() throws IOException {
    Filling store = new Filling(lake());
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(2))) {
      Table table = fill(lake);
      table.alter().layout(LayoutPlan.none().rule("hash k into 4")).run();
      long files = count("data");
      for (int kilobytes = 0; kilobytes < 60; kilobytes += 2) {
        store.left = 1024L * kilobytes;
        assertThatThrownBy(() -> write(table, 0)).isInstanceOf(StoreException.class);
        assertThatThrownBy(
                () -> table.update().all().set("t", "x").style(ChangeStyle.REWRITE).run())
            .isInstanceOf(YsteronException.class);
        assertThat(hidden()).as("after %d KiB", kilobytes).isZero();
        assertThat(count("data")).isEqualTo(files);
      }
      store.left = Long.MAX_VALUE;
      write(table, 0);
      assertThat(table.scan().count()).isEqualTo(40_000);
    }
  }

  private long count(String part) throws IOException {
    try (Stream<Path> all = Files.walk(lake().resolve(part))) {
      return all.filter(Files::isRegularFile).count();
    }
  }

  @Test
  void anInterruptEndsWorkWithAnExceptionOfOursAndLeavesNothingHidden() throws Exception {
    Random random = new Random(11);
    try (Lake lake = Lake.create(new LocalStore(lake()), LakeOptions.DEFAULTS.threads(2))) {
      Table table = fill(lake);
      int ended = 0;
      for (int i = 0; i < 60; i++) {
        int which = i % 3;
        FutureTask<Void> work =
            new FutureTask<>(
                () -> {
                  switch (which) {
                    case 0 -> write(table, 0);
                    case 1 -> table.update().where(column("k").lessThan(9)).set("t", "x").run();
                    default -> table.scan().rows().forEach(row -> row.get(1));
                  }
                  return null;
                });
        Thread thread = new Thread(work);
        thread.start();
        long nanos = System.nanoTime() + random.nextInt(30_000_000);
        while (System.nanoTime() < nanos) {
          Thread.onSpinWait();
        }
        thread.interrupt();
        try {
          work.get();
        } catch (ExecutionException e) {
          assertThat(e.getCause()).isInstanceOf(YsteronException.class);
          ended++;
        }
        thread.join();
        assertThat(hidden()).isZero();
      }
      assertThat(ended).isPositive();
      assertThat(table.scan().count()).isPositive();
    }
  }

  @Test
  void aLakeThatIsClosedWhileItIsWrittenToSaysSo() throws IOException {
    Lake lake = Lake.create(new LocalStore(lake()), LakeOptions.DEFAULTS.threads(2));
    Append append = fill(lake).append();
    append.add(1, "x");
    lake.close();
    assertThatThrownBy(append::commit).isInstanceOf(YsteronException.class);
    append.close();
    assertThat(hidden()).isZero();
  }

  @Test
  void linksAndPipesAreNotOpened() throws Exception {
    Path secret = directory.resolve("secret");
    try (Lake lake = Lake.create(lake())) {
      fill(lake);
    }
    Path entry = lake().resolve("ledger/000/000/002");
    Files.move(entry, secret);
    Files.createSymbolicLink(entry, secret);
    assertThatThrownBy(this::read)
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("ledger/000/000/002")
        .hasMessageContaining("is a link, a pipe or a directory instead of a file");
    Files.delete(entry);
    assertThat(new ProcessBuilder("mkfifo", entry.toString()).start().waitFor()).isZero();
    assertThatThrownBy(this::read).isInstanceOf(DamagedException.class);
    Files.delete(entry);
    Files.move(secret, entry);
    Path data = lake().resolve("data");
    Files.move(data, secret);
    Files.createSymbolicLink(data, secret);
    assertThatThrownBy(this::read)
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("points outside the lake");
    Files.delete(data);
    Files.move(secret, data);
    assertThat(read()).isEqualTo(20_000);
    Path link = directory.resolve("a link to the lake itself");
    Files.createSymbolicLink(link, lake());
    try (Lake lake = Lake.open(link)) {
      assertThat(lake.table("t.x").scan().count()).isEqualTo(20_000);
    }
    assertThatThrownBy(() -> Lake.open(entry)).isInstanceOf(NotFoundException.class);
  }

  private long read() {
    try (Lake lake = Lake.open(lake());
        Results<?> rows = lake.table("t.x").scan().rows()) {
      return rows.stream().count();
    }
  }
}
