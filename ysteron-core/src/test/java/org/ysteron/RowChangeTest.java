package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.TableSettings;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;

/** What deletes, updates and transactions do and refuse. */
class RowChangeTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("name", Types.text(5)).notNull(),
              Field.of("v", Types.decimal(5, 1)))
          .withKey("k");

  private final List<String> opened = new ArrayList<>();
  private final MemoryStore store = new MemoryStore();
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeTable() {
    lake =
        Lake.create(
            new ForwardingStore(store) {
              @Override
              public ObjectInput open(String name) {
                opened.add(name);
                return super.open(name);
              }
            });
    table = lake.createTable("t.x", SCHEMA);
    for (int from = 0; from < 40; from += 20) {
      try (Append append = table.append()) {
        for (int k = from; k < from + 20; k++) {
          append.add(k, "n" + k, java.math.BigDecimal.valueOf(k, 1));
        }
        append.commit();
      }
    }
    opened.clear();
  }

  private List<Integer> keys() {
    List<Integer> keys = new ArrayList<>();
    for (Row row : table.scan().columns("k").rows()) {
      keys.add((Integer) row.get("k"));
    }
    return keys;
  }

  @Test
  void aDeleteThatRangesDecideReadsNoData() {
    WriteResult result = table.delete().where(column("k").atLeast(20)).run("the second half");
    assertThat(result.report()).isEqualTo(new ChangeReport(20, 0, 20, 0, 1, 0, 0, 0, 0));
    assertThat(opened).noneMatch(name -> name.startsWith("data/"));
    assertThat(keys()).hasSize(20);
    assertThat(table.history(1).get(0).operation()).isEqualTo("delete");
    assertThat(table.history(1).get(0).counts().filesRemoved()).isEqualTo(1);
    assertThat(result.committed().orElseThrow().commit().note()).isEqualTo("the second half");
  }

  @Test
  void fewRowsAreMaskedAndManyRewritten() {
    ChangeReport few = table.delete().where(column("k").between(3, 4)).run().report();
    assertThat(few.filesMasked()).isEqualTo(1);
    assertThat(few.filesRewritten()).isZero();
    FileEntry masked = table.now().entries().get(0);
    assertThat(masked.numbers().maskedRows()).isEqualTo(2);
    assertThat(table.history(1).get(0).counts().filesMasked()).isEqualTo(1);
    assertThat(table.history(1).get(0).counts().rowsRemoved()).isEqualTo(2);
    ChangeReport many = table.delete().where(column("k").between(5, 9)).run().report();
    assertThat(many.filesRewritten()).isEqualTo(1);
    assertThat(many.filesAdded()).isEqualTo(1);
    assertThat(table.now().files()).allMatch(file -> file.maskedRows() == 0).hasSize(2);
    assertThat(table.history(1).get(0).counts().rowsRemoved()).isEqualTo(5);
    assertThat(keys()).startsWith(0, 1, 2, 10, 11).hasSize(33);
  }

  @Test
  void aTableSettingSaysWhenFilesAreRewritten() {
    Table eager =
        lake.createTable(
            "t.eager", SCHEMA, TableSettings.DEFAULTS.with(TableSettings.REWRITE_PERCENT, 0));
    try (Append append = eager.append()) {
      append.add(1, "a", null).add(2, "b", null);
      append.commit();
    }
    assertThat(eager.delete().where(column("k").equalTo(1)).run().report().filesRewritten())
        .isEqualTo(1);
  }

  @Test
  void anUpdateTakesConstantsColumnsAndFunctions() {
    ChangeReport report =
        table
            .update()
            .where(column("k").between(18, 21))
            .set("name", "here")
            .setToColumn("v", "k")
            .run()
            .report();
    assertThat(report.rowsMatched()).isEqualTo(4);
    assertThat(report.rowsUpdated()).isEqualTo(4);
    assertThat(report.filesMasked()).isEqualTo(2);
    assertThat(report.filesAdded()).isEqualTo(1);
    assertThat(report.bytesWritten()).isPositive();
    Row row = table.scan().where(column("k").equalTo(18)).rows().next().orElseThrow();
    assertThat(row.get("name")).isEqualTo("here");
    assertThat(row.get("v")).isEqualTo(new java.math.BigDecimal("18.0"));
    assertThat(table.at(2).scan().where(column("name").equalTo("here")).count()).isZero();
  }

  @Test
  void anUpdateOfWhatIsSoAlreadyMakesNoVersion() {
    long version = table.now().version();
    WriteResult result =
        table.update().where(column("k").equalTo(7)).set("name", "n7").onlyDifferent().run();
    assertThat(result.report().rowsMatched()).isEqualTo(1);
    assertThat(result.report().isNothing()).isTrue();
    assertThat(result.committed()).isEmpty();
    assertThat(table.now().version()).isEqualTo(version);
  }

  @Test
  void keysMayMoveButNotMeet() {
    table
        .update()
        .where(column("k").between(10, 39))
        .setBy("k", r -> (Integer) r.get("k") + 1)
        .run();
    assertThat(keys()).doesNotContain(10).contains(40).doesNotHaveDuplicates().hasSize(40);
    assertThatThrownBy(() -> table.update().where(column("k").equalTo(3)).set("k", 4).run())
        .isInstanceOf(KeyExistsException.class)
        .hasMessageStartingWith(
            "1 row cannot be added to table t.x because its key already exists: k = 4 (serial 4 in data file ")
        .hasMessageEndingWith(
            ". Nothing was changed. Give the rows other keys, or delete the other rows first.");
    assertThatThrownBy(() -> table.update().where(column("k").lessThan(3)).set("k", 99).run())
        .hasMessageStartingWith(
            "2 rows cannot be added to table t.x because their keys already exist: k = 99 more than once in these rows.");
    assertThat(keys()).contains(0, 1, 2, 3, 4).hasSize(40);
  }

  @Test
  void whatDoesNotFitIsRefusedWithTheRow() {
    assertThatThrownBy(() -> table.update().where(column("k").equalTo(5)).set("name", null).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessage(
            "Column name (VARCHAR(5)) cannot be set: null, but name is NOT NULL. Nothing was changed.");
    assertThatThrownBy(() -> table.update().all().set("name", "far too long").run())
        .hasMessageContaining("far too long");
    assertThatThrownBy(() -> table.update().all().set("nmae", "x").run())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("Did you mean name?");
    assertThatThrownBy(() -> table.update().all().set("v", 1).set("v", 2).run())
        .hasMessage("Column v is set twice.");
    assertThatThrownBy(() -> table.update().all().run())
        .hasMessage("An update needs a column to set.");
    assertThat(table.now().version()).isEqualTo(2);
    assertThat(store.list("data/" + table.id(), "", 100)).hasSize(2);
  }

  @Test
  void aFunctionThatThrowsLeavesNothing() {
    assertThatThrownBy(
            () ->
                table
                    .update()
                    .all()
                    .setBy(
                        "name",
                        row -> {
                          if ((Integer) row.get("k") == 30) {
                            throw new IllegalStateException("in the middle");
                          }
                          return "x";
                        })
                    .run())
        .hasMessage("in the middle");
    assertThat(table.now().version()).isEqualTo(2);
    assertThat(store.list("data/" + table.id(), "", 100)).hasSize(2);
  }

  @Test
  void aTransactionIsAllOrNothingOverTables() {
    try (Transaction work = lake.begin()) {
      TransactionTable made = work.createTable("t.new", SCHEMA);
      made.add(1, "a", null);
      work.table("t.x").delete().where(column("k").lessThan(10)).run();
      work.table("t.x").add(100, "new", null);
      assertThat(work.table("t.x").scan().count()).isEqualTo(31);
      assertThat(made.scan().count()).isEqualTo(1);
      assertThat(table.scan().count()).isEqualTo(40);
      work.labelled("run", "17").because("a test");
      var committed = work.commit("together");
      assertThat(committed.versions()).containsValues(0L, 3L);
      assertThat(lake.labels(committed.commit().orElseThrow())).containsEntry("run", "17");
    }
    assertThat(lake.commits(1).get(0).statement()).isEqualTo("a test");
    assertThat(table.scan().count()).isEqualTo(31);
    assertThat(lake.table("t.new").scan().count()).isEqualTo(1);
    assertThat(table.history(1).get(0).operation()).isEqualTo("delete + append");
    try (Transaction work = lake.begin()) {
      work.table("t.x").delete().all().run();
      work.dropTable("t.new");
      assertThatThrownBy(() -> work.table("t.new"))
          .hasMessage("Table t.new was dropped in this transaction.");
    }
    assertThat(table.scan().count()).isEqualTo(31);
    try (Transaction work = lake.begin()) {
      work.dropTable("t.new");
      work.createTable("t.new", SCHEMA);
      assertThat(work.commit("made anew").committed()).isPresent();
    }
    assertThat(lake.table("t.new").scan().count()).isZero();
  }

  @Test
  void aStatementThatFailsLeavesItsTransactionAsItWas() {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.delete().where(column("k").equalTo(1)).run();
      assertThatThrownBy(() -> inside.update().where(column("k").equalTo(3)).set("k", 4).run())
          .isInstanceOf(InvalidInputException.class);
      assertThat(inside.scan().count()).isEqualTo(39);
      work.commit();
    }
    assertThat(keys()).hasSize(39).contains(3);
    assertThat(store.list("data/" + table.id(), "", 100)).hasSize(2);
  }

  @Test
  void rowsChangedTwiceInATransactionKeepTheirSerials() {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.update().where(column("k").equalTo(25)).set("name", "one").run();
      inside
          .update()
          .where(column("k").equalTo(25))
          .set("name", "two")
          .style(ChangeStyle.REWRITE)
          .run();
      inside.add(50, "own", null);
      inside.update().where(column("k").equalTo(50)).set("name", "own2").run();
      work.commit();
    }
    Follower.Step step = table.follow(2).poll().orElseThrow();
    assertThat(step.rows().toList()).extracting(row -> row.get("name")).containsExactly("own2");
    table.delete().where(column("k").equalTo(25)).run();
    assertThat(keys()).doesNotContain(25).contains(50).hasSize(40);
  }

  @Test
  void aTransactionThatEndedSaysSo() {
    Transaction work = lake.begin();
    TransactionTable inside = work.table("t.x");
    work.commit();
    assertThatThrownBy(() -> inside.add(1, "a", null))
        .isInstanceOf(EndedException.class)
        .hasMessage("The transaction was committed. Begin another one.");
    Transaction given = lake.begin();
    given.close();
    assertThatThrownBy(() -> given.table("t.x")).hasMessageContaining("closed without a commit");
    assertThatThrownBy(given::commit).hasMessageContaining("closed without a commit");
  }

  @Test
  void transactionsBelongToNoThread() throws Exception {
    try (Transaction outer = lake.begin();
        Transaction inner = lake.noting("inner").begin()) {
      outer.table("t.x").add(60, "outer", null);
      inner.table("t.x").add(61, "inner", null);
      Thread other = new Thread(() -> inner.table("t.x").add(62, "far", null));
      other.start();
      other.join();
      inner.commit();
      outer.commit();
    }
    assertThat(keys()).contains(60, 61, 62).hasSize(43);
  }

  @Test
  void aTransactionIsForOneThreadAtATime() throws Exception {
    try (Transaction work = lake.begin()) {
      CountDownLatch inside = new CountDownLatch(1);
      CountDownLatch tried = new CountDownLatch(1);
      AtomicReference<Throwable> failure = new AtomicReference<>();
      Thread other =
          new Thread(
              () -> {
                try {
                  inside.await();
                  work.table("t.x").scan();
                } catch (Throwable e) {
                  failure.set(e);
                }
                tried.countDown();
              });
      other.start();
      work.table("t.x")
          .delete()
          .whereRow(
              row -> {
                inside.countDown();
                try {
                  tried.await();
                } catch (InterruptedException e) {
                  throw new IllegalStateException(e);
                }
                return true;
              })
          .run();
      other.join();
      assertThat(failure.get())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("in use by thread");
    }
  }
}
