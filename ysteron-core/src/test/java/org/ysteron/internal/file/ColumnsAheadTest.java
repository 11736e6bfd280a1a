package org.ysteron.internal.file;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.column.ColumnSource;
import org.ysteron.internal.work.Workers;

/** Columns decoded side by side make the batches that one thread would have made. */
@Timeout(60)
class ColumnsAheadTest {
  private static final int BATCHES = 50;
  private static final int COLUMNS = 7;
  private static final List<RowSpan> SPANS =
      IntStream.range(0, BATCHES).mapToObj(i -> new RowSpan(2L * i, 2L * i + 2)).toList();

  /** Counts up; no two threads may be in it. */
  private static class Counted extends ColumnSource {
    final AtomicInteger inside = new AtomicInteger();
    final AtomicInteger read = new AtomicInteger();

    @Override
    public Vector read(long fromRow, int count) {
      assertThat(inside.incrementAndGet()).isEqualTo(1);
      assertThat(fromRow).isEqualTo(2L * read.getAndIncrement());
      meet((int) fromRow / 2);
      inside.decrementAndGet();
      return new Vector.OfInt(
          Types.INTEGER, count, new int[] {(int) fromRow, (int) fromRow + 1}, null);
    }

    void meet(int batch) {
      assertThat(batch).isNotNegative();
    }
  }

  private static List<Counted> sources(int columns) {
    return IntStream.range(0, columns).mapToObj(i -> new Counted()).toList();
  }

  private static int first(Vector vector) {
    return ((Vector.OfInt) vector).values()[0];
  }

  @ParameterizedTest
  @ValueSource(ints = {1, 2, 5, 20})
  void batchesComeInOrderWithAnyNumberOfThreads(int threads) {
    try (Workers workers = new Workers(threads)) {
      ColumnsAhead ahead = new ColumnsAhead(workers, List.copyOf(sources(COLUMNS)), SPANS);
      for (int batch = 0; batch < BATCHES; batch++) {
        List<Vector> vectors = ahead.take();
        assertThat(vectors).hasSize(COLUMNS);
        int expected = 2 * batch;
        assertThat(vectors).allSatisfy(vector -> assertThat(first(vector)).isEqualTo(expected));
      }
      ahead.close();
    }
  }

  @ParameterizedTest
  @ValueSource(booleans = {true, false})
  void aFailureComesBehindTheBatchesBeforeIt(boolean error) {
    List<ColumnSource> sources = new ArrayList<>(sources(COLUMNS));
    sources.set(
        3,
        new Counted() {
          @Override
          void meet(int batch) {
            if (batch == 9 && error) {
              throw new OutOfMemoryError("nine");
            } else if (batch == 9) {
              throw new DamagedException("nine");
            }
          }
        });
    try (Workers workers = new Workers(3)) {
      ColumnsAhead ahead = new ColumnsAhead(workers, sources, SPANS);
      for (int batch = 0; batch < 9; batch++) {
        assertThat(first(ahead.take().get(3))).isEqualTo(2 * batch);
      }
      assertThatThrownBy(ahead::take).hasMessage("nine");
      assertThatThrownBy(ahead::take).hasMessage("nine");
      ahead.close();
    }
  }

  @Test
  void whatIsHeldIsAFewBatchesOnly() {
    List<Counted> sources = sources(COLUMNS);
    try (Workers workers = new Workers(3)) {
      ColumnsAhead ahead = new ColumnsAhead(workers, List.copyOf(sources), SPANS);
      for (int batch = 1; batch <= 20; batch++) {
        ahead.take();
        int most = batch + 4;
        assertThat(sources).allSatisfy(of -> assertThat(of.read.get()).isBetween(0, most));
      }
      ahead.close();
      assertThat(sources).allSatisfy(of -> assertThat(of.inside.get()).isZero());
    }
  }

  @Test
  void closingWaitsForTheColumnThatIsDecoded() throws InterruptedException {
    int tries = 0;
    while (!closingWaits()) {
      assertThat(++tries).isLessThan(1000);
    }
  }

  /**
   * Whether it could be tried: not when the thread that takes has decoded the slow batch itself.
   */
  private static boolean closingWaits() throws InterruptedException {
    Thread taking = Thread.currentThread();
    CountDownLatch entered = new CountDownLatch(1);
    CountDownLatch free = new CountDownLatch(1);
    Counted slow =
        new Counted() {
          @Override
          void meet(int batch) {
            if (batch == 1 && Thread.currentThread() != taking) {
              entered.countDown();
              awaitOf(free);
            }
          }
        };
    try (Workers workers = new Workers(2)) {
      ColumnsAhead ahead = new ColumnsAhead(workers, List.of(slow, new Counted()), SPANS);
      ahead.take();
      while (!entered.await(1, TimeUnit.MILLISECONDS)) {
        if (slow.read.get() > 1 && entered.getCount() > 0 && slow.inside.get() == 0) {
          ahead.close();
          return false;
        }
      }
      Thread closing = new Thread(ahead::close);
      closing.start();
      closing.join(50);
      assertThat(closing.isAlive()).isTrue();
      free.countDown();
      closing.join(10_000);
      assertThat(slow.inside.get()).isZero();
      assertThat(slow.read.get()).isEqualTo(2);
      return true;
    }
  }

  @Test
  void whatNoWorkerComesToIsDecodedByTheCaller() {
    CountDownLatch free = new CountDownLatch(1);
    try (Workers workers = new Workers(2)) {
      workers.begin(() -> awaitOf(free));
      workers.begin(() -> awaitOf(free));
      ColumnsAhead ahead = new ColumnsAhead(workers, List.copyOf(sources(2)), SPANS);
      for (int batch = 0; batch < BATCHES; batch++) {
        assertThat(first(ahead.take().get(1))).isEqualTo(2 * batch);
      }
      free.countDown();
      ahead.close();
    }
  }

  private static void awaitOf(CountDownLatch latch) {
    try {
      assertThat(latch.await(30, TimeUnit.SECONDS)).isTrue();
    } catch (InterruptedException e) {
      throw new YsteronException("interrupted", e);
    }
  }
}
