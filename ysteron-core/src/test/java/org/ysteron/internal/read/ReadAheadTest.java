package org.ysteron.internal.read;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Scan;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.work.Workers;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.store.LocalStore;

/** Batches that workers read ahead come in order, with failures where they belong. */
@Timeout(60)
class ReadAheadTest {
  private static final Type.Struct NUMBER =
      (Type.Struct) Types.struct(Field.of("n", Types.INTEGER));

  private static final long FOUR_ROWS = 4 * 8;

  @TempDir Path directory;

  /** Batches of one row each, which fail or wait at some number. */
  private static class Counted implements BatchSource {
    final AtomicInteger next = new AtomicInteger();
    final AtomicInteger inside = new AtomicInteger();
    volatile boolean closed;

    @Override
    public Optional<Batch> next() {
      assertThat(inside.incrementAndGet()).isEqualTo(1);
      try {
        int n = next.getAndIncrement();
        meet(n);
        Vector one = new Vector.OfInt(Types.INTEGER, 1, new int[] {n}, null);
        return n < 100 ? Optional.of(new Batch(NUMBER, 1, List.of(one))) : Optional.empty();
      } finally {
        inside.decrementAndGet();
      }
    }

    void meet(int n) {
      assertThat(n).isNotNegative();
    }

    @Override
    public void close() {
      assertThat(inside.get()).isZero();
      closed = true;
    }
  }

  private static List<Integer> taken(ReadAhead<Batch> ahead, List<Integer> to) {
    for (Optional<Batch> batch = ahead.take(); batch.isPresent(); batch = ahead.take()) {
      batch.get().rows().forEach(row -> to.add(row.getInt("n")));
    }
    return to;
  }

  @Test
  void noMoreThanSomeBytesAreReadAhead() throws InterruptedException {
    Counted source = new Counted();
    try (Workers workers = new Workers(2)) {
      ReadAhead<Batch> ahead = new ReadAhead<>(workers, source, batch -> batch, FOUR_ROWS);
      ahead.resume();
      for (int i = 0; i < 200 && source.next.get() < 4; i++) {
        Thread.sleep(10);
      }
      Thread.sleep(50);
      assertThat(source.next.get()).isEqualTo(4);
      assertThat(taken(ahead, new ArrayList<>())).hasSize(100).isSorted();
      assertThat(ahead.take()).isEmpty();
      ahead.close();
      assertThat(source.closed).isTrue();
    }
  }

  @Test
  void aFailureComesBehindTheBatchesBeforeIt() {
    Counted source =
        new Counted() {
          @Override
          void meet(int n) {
            if (n == 7) {
              throw new DamagedException("seven");
            }
          }
        };
    try (Workers workers = new Workers(2)) {
      ReadAhead<Batch> ahead = new ReadAhead<>(workers, source, batch -> batch, FOUR_ROWS);
      ahead.resume();
      List<Integer> rows = new ArrayList<>();
      assertThatThrownBy(() -> taken(ahead, rows)).hasMessage("seven");
      assertThat(rows).containsExactly(0, 1, 2, 3, 4, 5, 6);
      assertThat(ahead.take()).isEmpty();
      ahead.close();
    }
  }

  @Test
  void whatNoWorkerComesToIsReadByTheCaller() throws InterruptedException {
    CountDownLatch free = new CountDownLatch(1);
    try (Workers workers = new Workers(2)) {
      for (int i = 0; i < 2; i++) {
        workers.begin(
            () -> {
              try {
                assertThat(free.await(30, TimeUnit.SECONDS)).isTrue();
              } catch (InterruptedException e) {
                throw new YsteronException("interrupted", e);
              }
            });
      }
      ReadAhead<Batch> ahead = new ReadAhead<>(workers, new Counted(), batch -> batch, FOUR_ROWS);
      ahead.resume();
      assertThat(taken(ahead, new ArrayList<>())).hasSize(100).isSorted();
      free.countDown();
      ahead.close();
    }
  }

  @Test
  void closingWaitsForTheBatchThatIsBeingRead() throws InterruptedException {
    CountDownLatch reading = new CountDownLatch(1);
    Counted source =
        new Counted() {
          @Override
          void meet(int n) {
            reading.countDown();
            try {
              Thread.sleep(100);
            } catch (InterruptedException e) {
              throw new YsteronException("interrupted", e);
            }
          }
        };
    try (Workers workers = new Workers(2)) {
      ReadAhead<Batch> ahead = new ReadAhead<>(workers, source, batch -> batch, FOUR_ROWS);
      ahead.resume();
      assertThat(reading.await(10, TimeUnit.SECONDS)).isTrue();
      Thread.currentThread().interrupt();
      assertThatThrownBy(ahead::take).hasMessageContaining("Interrupted");
      ahead.close();
      assertThat(Thread.interrupted()).isTrue();
      assertThat(source.closed).isTrue();
      assertThat(source.next.get()).isEqualTo(1);
    }
  }

  /** Few columns: row groups are read side by side; many: columns are. */
  @ParameterizedTest
  @ValueSource(ints = {0, 7})
  void oneFileIsReadSideBySideInOrder(int more) throws IOException {
    Path lake = directory.resolve("lake");
    List<Field> fields = new ArrayList<>();
    fields.add(Field.of("n", Types.INTEGER));
    fields.add(Field.of("noise", Types.BINARY));
    for (int i = 0; i < more; i++) {
      fields.add(Field.of("c" + i, Types.listOf(Types.INTEGER)));
    }
    Schema schema = Schema.of(fields.toArray(Field[]::new));
    try (Lake one = Lake.create(new LocalStore(lake), LakeOptions.DEFAULTS.threads(1));
        Lake three = Lake.open(new LocalStore(lake), LakeOptions.DEFAULTS.threads(3))) {
      Table table = one.createTable("t.x", schema, TableSettings.DEFAULTS.groupBytes(1 << 20));
      Random random = new Random(5);
      try (Append append = table.append()) {
        for (int n = 0; n < 24_000; n++) {
          byte[] noise = new byte[1000];
          random.nextBytes(noise);
          List<Object> row = new ArrayList<>(List.of(n, noise));
          row.addAll(Collections.nCopies(more, List.of(n)));
          append.add(row.toArray());
        }
        append.commit();
      }
      assertThat(table.now().files()).hasSize(1);
      table.delete().where(column("n").between(3000, 14_999)).style(ChangeStyle.MASK).run();
      Table parallel = three.table("t.x");
      assertThat(numbers(parallel.scan())).hasSize(12_000).isEqualTo(numbers(table.scan()));
      Scan some = parallel.scan().where(column("n").between(2000, 17_000));
      assertThat(numbers(some)).hasSize(3001).isSorted();
      assertThat(numbers(parallel.scan().limit(2500))).hasSize(2500).isSorted();
      // Damage in the middle: all rows before that row group come all the same.
      Path file = lake.resolve(table.now().files().get(0).name());
      try (RandomAccessFile bytes = new RandomAccessFile(file.toFile(), "rw")) {
        bytes.seek(bytes.length() * 3 / 4);
        int there = bytes.read();
        bytes.seek(bytes.length() * 3 / 4);
        bytes.write(there ^ 1);
      }
      List<Integer> found = new ArrayList<>();
      assertThatThrownBy(() -> numbers(parallel.scan(), found))
          .isInstanceOf(DamagedException.class)
          .hasMessageContaining("Table t.x, version 2, file 0: Data file");
      assertThat(found).hasSizeBetween(3000, 7000).isSorted();
    }
  }

  private static List<Integer> numbers(Scan scan) {
    return numbers(scan, new ArrayList<>());
  }

  private static List<Integer> numbers(Scan scan, List<Integer> to) {
    try (Results<Row> rows = scan.rows()) {
      rows.forEach(row -> to.add(row.getInt("n")));
    }
    return to;
  }
}
