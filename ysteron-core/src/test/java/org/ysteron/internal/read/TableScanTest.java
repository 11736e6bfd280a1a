package org.ysteron.internal.read;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
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
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.option.LakeOptions;
import org.ysteron.report.Explanation;
import org.ysteron.store.ForwardingInput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;

class TableScanTest {
  private static final int FILES = 12;
  private static final int ROWS = 1_000;

  private final WatchedStore store = new WatchedStore();
  private Lake lake;

  /** Counts how many data files are open. */
  private static final class WatchedStore extends ForwardingStore {
    private final AtomicInteger open = new AtomicInteger();
    private final AtomicInteger most = new AtomicInteger();
    private final AtomicInteger opened = new AtomicInteger();

    WatchedStore() {
      super(new MemoryStore());
    }

    @Override
    public ObjectInput open(String name) {
      ObjectInput input = super.open(name);
      if (!name.startsWith("data/")) {
        return input;
      }
      opened.incrementAndGet();
      most.accumulateAndGet(open.incrementAndGet(), Math::max);
      return new ForwardingInput(input) {
        @Override
        public void close() {
          open.decrementAndGet();
          super.close();
        }
      };
    }
  }

  @BeforeEach
  void fill() {
    lake = Lake.create(store, LakeOptions.DEFAULTS.threads(3));
    Table table =
        lake.createTable(
            "t.n",
            Schema.of(
                Field.of("n", Types.INTEGER).notNull(),
                Field.of("half", Types.INTEGER),
                Field.of(
                    "s", Types.struct(Field.of("x", Types.INTEGER), Field.of("y", Types.text())))));
    for (int f = 0; f < FILES; f++) {
      try (Append append = table.append()) {
        for (int i = 0; i < ROWS; i++) {
          int n = f * ROWS + i;
          append.add(n, n % 2 == 0 ? n : null, null);
        }
        append.commit();
      }
    }
  }

  private Table table() {
    return lake.table("t.n");
  }

  private static List<Integer> numbers(Scan scan) {
    List<Integer> numbers = new ArrayList<>();
    try (Results<Row> rows = scan.columns("n").rows()) {
      rows.forEach(row -> numbers.add((Integer) row.get(0)));
    }
    return numbers;
  }

  @ParameterizedTest
  @ValueSource(ints = {1, 2, 3, 8})
  void rowsComeInTheirOrderWithAnyNumberOfThreads(int threads) {
    try (Lake other = Lake.open(store, LakeOptions.DEFAULTS.threads(threads))) {
      assertThat(numbers(other.table("t.n").scan()))
          .isEqualTo(IntStream.range(0, FILES * ROWS).boxed().toList());
      assertThat(store.most.get()).isLessThanOrEqualTo(threads + 1);
      assertThat(store.open.get()).isZero();
    }
  }

  @Test
  void closingEarlyClosesAllFiles() {
    try (Results<Batch> batches = table().scan().batches()) {
      assertThat(batches.next()).isPresent();
    }
    assertThat(store.open.get()).isZero();
    assertThat(store.opened.get()).isLessThan(FILES);
  }

  @Test
  void aLimitEndsTheScan() {
    assertThat(numbers(table().scan().limit(5))).containsExactly(0, 1, 2, 3, 4);
    assertThat(store.open.get()).isZero();
    assertThat(store.opened.get()).isLessThan(FILES);
    assertThat(numbers(table().scan().limit(0))).isEmpty();
    assertThatThrownBy(() -> table().scan().limit(-1)).isInstanceOf(InvalidInputException.class);
  }

  @Test
  void scansThatWaitForEachOtherDoNotStarve() {
    List<Results<Row>> scans = new ArrayList<>();
    for (int i = 0; i < 10; i++) {
      scans.add(table().scan().columns("n").rows());
    }
    for (int n = 0; n < FILES * ROWS; n++) {
      for (Results<Row> scan : scans) {
        assertThat(scan.next().orElseThrow().get(0)).isEqualTo(n);
      }
    }
    scans.forEach(scan -> assertThat(scan.next()).isEmpty());
    assertThat(store.open.get()).isZero();
  }

  @Test
  void filesThatCannotMatchAreNotOpened() {
    Condition range = Condition.column("n").between(4_500, 5_499);
    assertThat(numbers(table().scan().where(range)))
        .isEqualTo(IntStream.range(4_500, 5_500).boxed().toList());
    assertThat(store.opened.get()).isEqualTo(2);
  }

  @Test
  void filesThatMatchAsAWholeAreCountedUnread() {
    Condition range = Condition.column("n").between(1_000, 10_999);
    assertThat(table().scan().where(range).count()).isEqualTo(10_000);
    assertThat(store.opened.get()).isZero();
    Condition odd = Condition.column("half").isNull();
    assertThat(table().scan().where(odd).count()).isEqualTo(FILES * ROWS / 2);
  }

  @Test
  void theTestedColumnNeedNotBeAmongTheWanted() {
    Scan scan = table().scan().where(Condition.column("half").equalTo(77 * 2)).columns("n");
    Row row = scan.rows().next().orElseThrow();
    assertThat(row.fields()).hasSize(1);
    assertThat(row.get("n")).isEqualTo(154);
  }

  @Test
  void explainCountsWhatIsSkippedAtEachLevel() {
    Explanation plan = table().scan().where(Condition.column("n").lessThan(1_500)).explain();
    assertThat(plan.files()).isEqualTo(FILES);
    assertThat(plan.opened().filesWhole()).isEqualTo(1);
    assertThat(plan.opened().filesFiltered()).isEqualTo(1);
    assertThat(plan.skipped().files() + plan.skipped().filesInSubtrees()).isEqualTo(FILES - 2L);
    assertThat(plan.reasons())
        .containsExactly(new Explanation.Reason(Optional.of("n"), 0, FILES - 2L));
    assertThat(plan.opened().rows()).isEqualTo(2L * ROWS);
    assertThat(plan.groups().all()).isEqualTo(1);
    Explanation all = table().scan().explain();
    assertThat(all.opened().filesWhole()).isEqualTo(FILES);
    assertThat(all.reasons()).isEmpty();
  }

  @Test
  void aMissingFileIsReportedWhereverItIsRead() {
    String name = table().now().files().get(7).name();
    store.delete(name);
    assertThatThrownBy(() -> numbers(table().scan()))
        .isInstanceOf(DamagedException.class)
        .hasMessageStartingWith("Table t.n, version 12, file 7: Data file " + name)
        .hasMessageContaining("is missing");
    assertThat(store.open.get()).isZero();
    assertThat(numbers(table().scan().where(Condition.column("n").lessThan(1_000)))).hasSize(ROWS);
  }

  @Test
  void unknownColumnsAreNamed() {
    assertThatThrownBy(() -> table().scan().columns("m").rows())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("Did you mean n");
    assertThatThrownBy(() -> table().scan().where(Condition.column("s.z").isNull()).rows())
        .hasMessageContaining("There is no column z in s");
  }

  @Test
  void resultsAreReadInEachWay() {
    Scan scan = table().scan().columns("n").limit(3);
    assertThat(scan.rows().toList()).hasSize(3);
    assertThat(scan.rows().stream().count()).isEqualTo(3);
    Results<Row> rows = scan.rows();
    Optional<Row> first = rows.next();
    assertThat(first.orElseThrow().get("n")).isEqualTo(0);
    assertThat(rows.toList()).hasSize(2);
    assertThat(rows.next()).isEmpty();
    assertThatThrownBy(() -> rows.iterator().next())
        .isInstanceOf(java.util.NoSuchElementException.class);
  }
}
