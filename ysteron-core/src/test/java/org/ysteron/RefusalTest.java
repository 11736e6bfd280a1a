package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.IntConsumer;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Members;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition.Comparison;
import org.ysteron.option.Drift;
import org.ysteron.option.WriteRules;
import org.ysteron.report.SkippedRows;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.StoreException;

/** Whoever goes on after a refusal has exactly the rows that were taken, or is told of the end. */
class RefusalTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.BIGINT).notNull(),
          Field.of("v", Types.INTEGER),
          Field.of("w", Types.DOUBLE));
  private static final int ROWS = 20_000; // more than a batch
  private static final int BAD = 5_000;

  private final MemoryStore store = new MemoryStore();
  private final AtomicBoolean full = new AtomicBoolean();
  private final Lake lake =
      Lake.create(
          new ForwardingStore(store) {
            @Override
            public ObjectOutput put(String name) {
              if (full.get() && name.startsWith("data/")) {
                throw new StoreException("the store is full");
              }
              return super.put(name);
            }
          });
  private final Table table = lake.createTable("t.x", SCHEMA);

  RefusalTest() {
    table.alter().check("sane", column("v").lessThan(1000)).run();
  }

  private static int value(int i) {
    return i == BAD ? 5000 : 1;
  }

  /** Offers rows to something, of which one breaks a check, and goes on after the refusal. */
  private static int offer(IntConsumer rows) {
    int refused = 0;
    for (int i = 0; i < ROWS; i++) {
      try {
        rows.accept(i);
      } catch (InvalidInputException e) {
        refused++;
        assertThat(e)
            .hasMessage(
                "Row 5001 (v = 5000) breaks the check sane: v < 1000 is false. Nothing was changed.");
      }
    }
    return refused;
  }

  private void assertAllButTheBadRow() {
    assertThat(table.scan().count()).isEqualTo(ROWS - 1);
    assertThat(table.scan().where(column("id").equalTo(BAD)).count()).isZero();
    table.delete().all().run();
  }

  @Test
  void anAppendHasAllRowsButTheRefusedOne() {
    try (Append append = table.append()) {
      assertThat(offer(i -> append.add((long) i, value(i), null))).isEqualTo(1);
      assertThat(append.rows()).isEqualTo(ROWS - 1);
      append.commit();
    }
    assertAllButTheBadRow();
    try (Append append = table.append()) {
      Schema some = SCHEMA.select(List.of("id", "v"));
      offer(i -> append.addRow(Row.of(some.struct(), (long) i, value(i))));
      append.commit();
    }
    assertAllButTheBadRow();
  }

  @Test
  void aRefusedBatchIsLeftOutAsAWhole() {
    try (Append append = table.append()) {
      append.add(1L, 1, null);
      List<Batch> bad = batches(table, 2, 5000);
      assertThatThrownBy(() -> append.addBatch(bad.get(0)))
          .hasMessageContaining("Row 3 (v = 5000)");
      append.addBatch(batches(table, 7, 8).get(0));
      append.commit();
    }
    assertThat(ids()).containsExactly(0L, 1L, 1L);
  }

  private static List<Batch> batches(Table like, int... values) {
    Table other = Lake.create(new MemoryStore()).createTable("t.y", like.schema());
    try (Append append = other.append()) {
      for (int i = 0; i < values.length; i++) {
        append.add((long) i, values[i], null);
      }
      append.commit();
    }
    try (Results<Batch> batches = other.scan().batches()) {
      return batches.stream().toList();
    }
  }

  private List<Long> ids() {
    try (Results<Row> rows = table.scan().rows()) {
      return rows.stream().map(row -> (Long) row.get("id")).sorted().toList();
    }
  }

  @Test
  void aBufferedAppendHasAllRowsButTheRefusedOneAndTakesMore() {
    List<Long> told = new ArrayList<>();
    try (BufferedAppend rows = buffered(told)) {
      assertThat(offer(i -> rows.add((long) i, value(i), null))).isEqualTo(1);
      rows.flush();
      assertThat(rows.acknowledged()).isEqualTo(ROWS - 1);
      assertAllButTheBadRow();
      rows.add(1L, 1, null);
    }
    assertThat(told).containsExactly(ROWS - 1L, 1L);
    assertThat(ids()).containsExactly(1L);
  }

  private BufferedAppend buffered(List<Long> told) {
    return table.buffered(
        new BufferedAppend.Limits(1 << 20, 1 << 30, Duration.ofHours(1)),
        gathered -> told.add(gathered.rows()));
  }

  @Test
  void aBufferedAppendWhoseRowsWereRefusedAtTheCommitHasEndedAndSaysHowMany() {
    BufferedAppend rows = buffered(new ArrayList<>());
    rows.add(1L, 1, null);
    rows.flush();
    rows.add(2L, 1, null);
    rows.add(3L, 7, null);
    table.alter().check("tame", column("v").lessThan(5)).run();
    assertThatThrownBy(rows::flush)
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("tame");
    assertThatThrownBy(() -> rows.add(4L, 1, null))
        .isInstanceOf(EndedException.class)
        .hasMessageContaining(
            "2 rows that were added are not in the table; 1 are. Open another one.");
    assertThatThrownBy(rows::flush).isInstanceOf(EndedException.class);
    assertThatThrownBy(rows::close).isInstanceOf(EndedException.class);
    rows.close();
    assertThat(ids()).containsExactly(1L);
  }

  @Test
  void aBufferedAppendAsksAgainWhatBecameOfItsCommitAndTellsAConflict() {
    int[] silent = {0};
    Lake unclear =
        Lake.open(
            new ForwardingStore(store) {
              @Override
              public boolean createIfAbsent(String name, byte[] content) {
                if (silent[0] > 0) {
                  silent[0]--;
                  throw new StoreException("no reply");
                }
                return super.createIfAbsent(name, content);
              }
            });
    BufferedAppend rows =
        unclear.table("t.x").buffered(new BufferedAppend.Limits(100, 1 << 30, Duration.ofHours(1)));
    rows.add(1L, 1, null);
    silent[0] = 8; // more than one attempt asks
    assertThat(rows.flush()).isPresent();
    rows.add(2L, 7, null);
    silent[0] = 8;
    table.alter().check("tame", column("v").lessThan(5)).run();
    assertThatThrownBy(rows::flush).isInstanceOf(ConflictException.class);
    assertThatThrownBy(rows::close).hasMessageContaining("1 rows that were added are not");
    assertThat(ids()).containsExactly(1L);
  }

  /** Another commit asks more of rows: v below 5, w not null, no null in the list. */
  private void askMore() {
    table.alter().check("tame", column("v").lessThan(5)).notNull("w").notNull("l.element").run();
  }

  private static final List<Object[]> LATE =
      List.of(
          new Object[] {1L, 1, 0.5, List.of(1)},
          new Object[] {2L, 7, 0.5, List.of()}, // not tame
          new Object[] {3L, null, 1.5, List.of(1, 2)},
          new Object[] {4L, 8, null, List.of()}, // neither
          new Object[] {5L, 1, null, null},
          new Object[] {6L, 1, 2.5, Arrays.asList(1, null)}, // a null inside
          new Object[] {7L, 1, 2.5, null});

  private void expectLeftOut(SkippedRows left) {
    assertThat(left.rows()).isEqualTo(4);
    assertThat(left.reasons())
        .containsExactlyInAnyOrder(
            "Column w is null in 2 rows, such as id = 4, v = 8, w = null, l = []; id = 5, v = 1, w = null, l = null",
            "Column l.element is null in 1 row, such as id = 6, v = 1, w = 2.5, l = [1, null]",
            "The check tame (v < 5) is false in 2 rows, such as id = 2, v = 7, w = 0.5, l = []; id = 4, v = 8, w = null, l = []");
    assertThat(ids()).containsExactly(1L, 3L, 7L);
    assertThat(table.now().record().totals().rows()).isEqualTo(3);
  }

  private void withAList() {
    table.alter().add(Field.of("l", Types.listOf(Types.INTEGER))).run();
  }

  @Test
  void rowsThatDoNotFitAtTheCommitAreLeftOutByChoice() {
    withAList();
    try (Append append = table.append(WriteRules::skippingRejected)) {
      LATE.forEach(append::add);
      askMore();
      assertThat(append.skipped()).isEqualTo(SkippedRows.NONE);
      append.commit();
      expectLeftOut(append.skipped());
    }
    try (Append append = table.append(WriteRules::skippingRejected)) {
      append.add(8L, 1, 2.5, null);
      append.commit();
      assertThat(append.skipped()).isEqualTo(SkippedRows.NONE);
    }
  }

  @Test
  void allRowsMayBeLeftOut() {
    try (Append append = table.append(WriteRules::skippingRejected)) {
      append.add(1L, 7, 0.5);
      append.add(2L, 7, 0.5);
      table.alter().check("tame", column("v").lessThan(5)).run();
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(2);
    }
    assertThat(table.scan().count()).isZero();
    assertThat(table.now().files()).isEmpty();
  }

  @Test
  void aGrowingAppendLeavesOutToo() {
    try (Append append = table.append(rules -> rules.with(Drift.GROW).skippingRejected())) {
      append.add(1L, 7, 0.5);
      append.add(2L, 1, 0.5);
      append.addObject(Map.of("id", 3L, "v", 7, "more", 1L));
      append.addObject(Map.of("id", 4L, "v", 2, "more", 1L));
      table.alter().check("tame", column("v").lessThan(5)).run();
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(2);
    }
    assertThat(ids()).containsExactly(2L, 4L);
    assertThat(table.scan().where(column("more").equalTo(1)).count()).isEqualTo(1);
  }

  @Test
  void aBufferedAppendLeavesOutAndSaysSo() {
    withAList();
    List<BufferedAppend.Gathered> told = new ArrayList<>();
    try (BufferedAppend rows =
        table.buffered(
            new BufferedAppend.Limits(1 << 20, 1 << 30, Duration.ofHours(1)),
            WriteRules::skippingRejected,
            told::add)) {
      LATE.forEach(rows::add);
      askMore();
      rows.flush();
      assertThat(rows.acknowledged()).isEqualTo(3);
      expectLeftOut(told.get(0).skipped());
      rows.add(8L, 1, 0.5, null);
    }
    assertThat(told).extracting(BufferedAppend.Gathered::all).containsExactly(3L, 4L);
    assertThat(told.get(1).skipped()).isEqualTo(SkippedRows.NONE);
  }

  @Test
  void aNamedWriterLeavesOutWhatItIsGivenAndWhatComesTooLate() {
    withAList();
    NamedWriter writer = table.openWriter("w").skippingRejected();
    NamedWriter.Rows rows =
        to -> {
          to.add(9L, 5000, 0.5, null); // breaks a check that is there already
          LATE.forEach(to::add);
          if (!table.schema().find("w").required()) {
            askMore();
          }
        };
    assertThat(writer.append(1, rows).committed()).isPresent();
    assertThat(writer.skipped().rows()).isEqualTo(5);
    assertThat(writer.skipped().reasons().get(0))
        .isEqualTo(
            "Row 1 (v = 5000) breaks the check sane: v < 1000 is false. Nothing was changed.");
    assertThat(ids()).containsExactly(1L, 3L, 7L);
    assertThat(writer.append(1, rows).committed()).as("the same again").isEmpty();
    assertThat(writer.skipped()).isEqualTo(SkippedRows.NONE);
  }

  @Test
  void whatCannotBeWrittenEndsAnAppend() {
    Append append = table.append();
    append.add(1L, 1, null);
    full.set(true);
    assertThatThrownBy(() -> offer(i -> append.add((long) i, 1, null)))
        .isInstanceOf(StoreException.class);
    full.set(false);
    assertThatThrownBy(() -> append.add(2L, 1, null))
        .isInstanceOf(EndedException.class)
        .hasMessageContaining("the store is full");
    assertThatThrownBy(append::commit).isInstanceOf(EndedException.class);
    append.close();
    assertThatThrownBy(append::commit)
        .isInstanceOf(EndedException.class)
        .hasMessage("This append to t.x has ended. Start another one for more rows.");
    assertThat(ids()).isEmpty();
  }

  @Test
  void aNamedAppendWithARefusedRowIsNotAppliedWhateverItsCallerCatches() {
    NamedWriter writer = table.openWriter("w");
    assertThatThrownBy(
            () ->
                writer.append(
                    1,
                    rows -> {
                      for (int i = 0; i < 10; i++) {
                        try {
                          rows.add((long) i, i == 5 ? 5000 : 1, null);
                        } catch (InvalidInputException e) {
                          // goes on
                        }
                      }
                    }))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("breaks the check sane");
    assertThat(writer.lastApplied()).isEqualTo(-1);
    assertThat(ids()).isEmpty();
    assertThat(writer.append(1, rows -> rows.add(1L, 1, null)).committed()).isPresent();
  }

  @Test
  void aTransactionGoesOnAfterARefusal() {
    lake.createTable("t.y", SCHEMA);
    try (Transaction work = lake.begin()) {
      TransactionTable x = work.table("t.x");
      assertThat(offer(i -> x.add((long) i, value(i), null))).isEqualTo(1);
      assertThatThrownBy(() -> x.update().all().set("v", "much").run())
          .isInstanceOf(InvalidInputException.class);
      assertThatThrownBy(() -> x.update().all().setBy("v", row -> 5000).run())
          .isInstanceOf(InvalidInputException.class);
      assertThatThrownBy(() -> x.alter().check("none", column("v").greaterThan(1)).run())
          .isInstanceOf(InvalidInputException.class);
      assertThat(x.scan().count()).isEqualTo(ROWS - 1);
      work.table("t.y").add(1L, 1, null);
      work.commit();
    }
    assertAllButTheBadRow();
    assertThat(lake.table("t.y").scan().count()).isEqualTo(1);
  }

  @Test
  void aTransactionOfWhichAPartFailedCannotCommitTheRest() {
    lake.createTable("t.y", SCHEMA);
    for (boolean looks : List.of(true, false)) {
      Transaction work = lake.begin();
      TransactionTable x = work.table("t.x");
      x.add(1L, 1, null);
      work.table("t.y").add(1L, 1, null);
      full.set(true);
      assertThatThrownBy(() -> end(work, x, looks)).isInstanceOf(StoreException.class);
      full.set(false);
      assertThatThrownBy(work::commit)
          .isInstanceOf(EndedException.class)
          .hasMessage(
              "The transaction ended because a part of it failed: the store is full Nothing was changed; begin another one.");
      assertThatThrownBy(() -> x.add(2L, 1, null)).isInstanceOf(EndedException.class);
      work.close();
      assertThat(lake.table("t.y").scan().count() + table.scan().count()).isZero();
    }
    assertThat(store.list("data", "", 10)).isEmpty();
  }

  private static void end(Transaction work, TransactionTable table, boolean looks) {
    if (looks) {
      table.scan();
    } else {
      work.commit();
    }
  }

  @Test
  void aPartThatThrowsWhateverItDoesEndsTheTransaction() {
    try (Transaction work = lake.begin()) {
      TransactionTable x = work.table("t.x");
      x.add(1L, 1, null);
      assertThatThrownBy(
              () ->
                  x.update()
                      .all()
                      .setBy(
                          "v",
                          row -> {
                            throw new ArithmeticException("by zero");
                          })
                      .run())
          .isInstanceOf(ArithmeticException.class);
      assertThatThrownBy(work::commit)
          .isInstanceOf(EndedException.class)
          .hasMessageContaining("by zero");
    }
    assertThat(ids()).isEmpty();
  }

  @Test
  void aRefusedGrowthLeavesTheRowsAsTheyAre() {
    table.alter().check("c", column("v").compared(Comparison.AT_MOST, "w")).run();
    try (Append append = table.append(rules -> rules.with(Drift.GROW))) {
      for (int i = 0; i < 10; i++) {
        append.addObject(Members.of("id", i, "v", 1, "w", 5));
      }
      for (Map<String, Object> bad :
          Arrays.asList(
              Members.of("id", 100, "v", 3_000_000_000L, "w", 4e9),
              Members.of("id", 100, "", 1),
              Members.of("id", 100, "N", 1, "n", "x".repeat(10), "v", 3_000_000_000L))) {
        assertThatThrownBy(() -> append.addObject(bad))
            .isInstanceOf(InvalidInputException.class)
            .hasMessageStartingWith("Row ");
      }
      append.addObject(Members.of("id", 10, "v", 1, "w", 5, "more", "text"));
      append.addObject(Members.of("id", 11, "v", 1, "w", 5));
      assertThatThrownBy(() -> append.addObject(Members.of("id", "x")))
          .hasMessageStartingWith("Row 16: ");
      assertThatThrownBy(() -> append.addObject(Members.of("id", 1, "v", 1000, "w", 5000)))
          .hasMessageStartingWith("Row 17 ");
      assertThat(append.rows()).isEqualTo(12);
      append.commit();
    }
    assertThat(ids()).containsExactly(0L, 1L, 2L, 3L, 4L, 5L, 6L, 7L, 8L, 9L, 10L, 11L);
    assertThat(table.scan().where(column("more").equalTo("text")).count()).isEqualTo(1);
  }

  @Test
  void anHonestRetryIsTakenForOneAfterColumnsWereAddedMovedAndWidened() {
    NamedWriter writer = table.openWriter("w");
    NamedWriter.Rows rows =
        to -> {
          to.add(1L, 10, null);
          to.add(2L, 20, 0.5);
        };
    assertThat(writer.append(7, rows).committed()).isPresent();
    table.alter().add(Field.of("z", Types.INTEGER).withDefault(3)).run();
    assertThat(writer.append(7, rows).committed()).isEmpty();
    assertThat(
            writer
                .append(
                    7,
                    to -> {
                      to.add(1L, 10, null, null);
                      to.add(2L, 20, 0.5, null);
                    })
                .committed())
        .isEmpty();
    assertThat(writer.append(6, to -> to.add("whatever")).committed()).isEmpty();
    assertThatThrownBy(() -> writer.append(7, to -> to.add(1L, 10, null)))
        .hasMessageContaining("with other rows");
    assertThat(writer.append(8, rows).committed()).isPresent();
    assertThat(table.scan().where(column("z").equalTo(3)).count()).isEqualTo(4);
    table.alter().rename("v", "u").widen("u", Types.BIGINT).run();
    assertThat(writer.append(8, rows).committed()).isEmpty();
    Schema named = Schema.of(Field.of("u", Types.BIGINT), Field.of("id", Types.BIGINT));
    NamedWriter.Rows byName = to -> to.addRow(Row.of(named.struct(), 30L, 3L));
    assertThat(writer.append(9, byName).committed()).isPresent();
    assertThat(writer.append(9, byName).committed()).isEmpty();
    table.alter().drop("z").run();
    table.alter().drop("w").add(Field.of("y", Types.INTEGER)).run();
    assertThatThrownBy(() -> writer.append(10, rows))
        .hasMessageContaining("have changed since this writer was opened");
    assertThat(table.openWriter("w").append(10, to -> to.add(9L, 9L, 9)).committed()).isPresent();
    assertThat(table.scan().count()).isEqualTo(6);
  }

  @Test
  void aMergeOfATableOfTheLakeReadsItAgainWithTheMergeAndIsTestedByIt() {
    try (Append append = table.append()) {
      append.add(1L, 10, null);
      append.commit();
    }
    boolean[] met = {false};
    table
        .merge(MergeSource.scan(table.scan()))
        .on("id")
        .matched(
            Merge.setBy(
                Map.of(
                    "v",
                    (row, given) -> {
                      if (!met[0]) {
                        met[0] = true;
                        table.update().all().setBy("v", r -> (Integer) r.get("v") + 100).run();
                      }
                      return (Integer) given.get("v") + 1;
                    })))
        .run();
    assertThat(met[0]).isTrue();
    assertThat(table.scan().where(column("v").equalTo(111)).count()).isEqualTo(1);
    // A pinned version is what it was.
    table
        .merge(MergeSource.scan(table.at(table.now().version() - 1).scan()))
        .on("id")
        .matched(Merge.takeAll())
        .run();
    assertThat(table.scan().where(column("v").equalTo(110)).count()).isEqualTo(1);
  }

  @Test
  void aSourceThatIsATableIsReadAsTheTransactionSeesIt() {
    Table other = lake.createTable("t.y", SCHEMA);
    try (Transaction work = lake.begin()) {
      work.table("t.y").add(1L, 10, null);
      work.table("t.x")
          .merge(MergeSource.scan(other.scan()))
          .on("id")
          .unmatched(Merge.takeAll())
          .run();
      try (Append append = Lake.open(store).table("t.y").append()) {
        append.add(2L, 20, null);
        append.commit();
      }
      assertThatThrownBy(work::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("t.y");
    }
    assertThat(ids()).isEmpty();
  }
}
