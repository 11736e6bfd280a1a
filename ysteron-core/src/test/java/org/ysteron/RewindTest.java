package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.RewoundException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.TableVersion;
import org.ysteron.report.WriteResult;
import org.ysteron.store.MemoryStore;

class RewindTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER).notNull(), Field.of("v", Types.BIGINT)).withKey("k");

  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store);
  private final Table table = lake.createTable("t.x", SCHEMA);

  /** Version 1 has the keys 0 to 9, version 2 the correction that forgot its WHERE. */
  private void spoil() {
    append(0, 10);
    table.update().all().set("v", 0).run("forgot its WHERE");
  }

  private void append(int from, int to) {
    try (Append append = table.append()) {
      for (int k = from; k < to; k++) {
        append.add(k, 10L * k);
      }
      append.commit();
    }
  }

  private static List<String> rows(Scan scan) {
    return scan.rows().stream().map(Row::toString).sorted().toList();
  }

  @Test
  void whatATableWasIsCurrentAgainAndLaterVersionsStay() {
    spoil();
    List<String> spoiled = rows(table.scan());
    WriteResult result = table.rewind().to(1).run("back");
    assertThat(result.versions()).containsEntry(table.id(), 3L);
    assertThat(rows(table.scan())).isEqualTo(rows(table.at(1).scan())).hasSize(10);
    assertThat(rows(table.at(2).scan())).isEqualTo(spoiled);
    TableVersion record = table.history(1).get(0);
    assertThat(record.operation()).isEqualTo("rewind");
    assertThat(record.rewoundTo()).contains(1L);
    assertThat(record.onlyMoved()).isFalse();
    assertThat(record.totals()).isEqualTo(table.at(1).record().totals());
    assertThat(record.commit().note()).isEqualTo("back");
    try (Lake again = Lake.open(store)) {
      assertThat(again.table("t.x").now().record().rewoundTo()).contains(1L);
      assertThat(rows(again.table("t.x").scan())).isEqualTo(rows(table.at(1).scan()));
    }
  }

  @Test
  void whatIsWiderThanTheNewestColumnsIsReadAndErasedByTheWiderType() {
    append(0, 2);
    table.alter().widen("k", Types.DOUBLE).widen("v", Types.decimal(25, 2)).run();
    try (Append append = table.append()) {
      append.add(2.5, new BigDecimal("5000000001.25"));
      append.commit();
    }
    long wide = table.now().version();
    table.rewind().to(1).run();
    TableView then = table.at(wide).bySchemaOf(table.now());
    assertThat(then.scan().where(column("k").greaterThan(2)).count()).isEqualTo(1);
    assertThat(then.scan().where(column("k").lessThan(2)).count()).isEqualTo(2);
    assertThat(rows(then.scan())).isEqualTo(rows(table.at(wide).scan())).hasSize(3);
    assertThat(table.erase(column("k").equalTo(2.5)).run().rows()).isEqualTo(1);
    assertThat(rows(table.at(wide).scan())).hasSize(2);
    assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
  }

  @Test
  void formAndTestingOfKeysGoBackAndNameAndSettingsStay() {
    append(0, 3);
    table
        .alter()
        .rename("v", "level")
        .widen("k", Types.BIGINT)
        .add(Field.of("gust", Types.DOUBLE))
        .dropKey()
        .check("low", column("level").lessThan(1000))
        .layout(LayoutPlan.none().hash("k", 3))
        .set(TableSettings.KEY_TEST, "declared")
        .set(TableSettings.DRIFT, Drift.GROW)
        .run();
    lake.renameTable("t.x", "t.y");
    append(3, 5, 1.5);
    TableView altered = table.now();
    table.rewind().to(1).run();
    TableView back = table.now();
    assertThat(back.schema()).isEqualTo(table.at(1).schema());
    assertThat(back.checks()).isEmpty();
    assertThat(back.layout()).hasToString("no partitions");
    assertThat(back.layoutVersion()).isEqualTo(table.at(1).layoutVersion());
    assertThat(back.settings().word(TableSettings.KEY_TEST)).isEqualTo("exact");
    assertThat(back.settings().word(TableSettings.DRIFT)).isEqualTo("grow");
    assertThat(back.name()).isEqualTo("t.y");
    assertThat(rows(back.scan())).isEqualTo(rows(table.at(1).scan()));
    table.alter().add(Field.of("gust", Types.INTEGER)).run();
    assertThat(table.schema().find("gust").id()).isGreaterThan(altered.schema().find("gust").id());
    append(7, 9, 4);
    table.rewind().to(altered.version()).run();
    assertThat(table.schema()).isEqualTo(altered.schema());
    assertThat(table.now().checks()).isEqualTo(altered.checks());
    assertThat(rows(table.scan())).isEqualTo(rows(altered.scan()));
    append(20, 22, 2.5);
    assertThat(table.scan().count()).isEqualTo(7);
    assertThat(table.scan().where(column("gust").equalTo(2.5)).count()).isEqualTo(2);
  }

  private void append(int from, int to, Object gust) {
    try (Append append = table.append(rules -> rules.with(Drift.STRICT))) {
      for (int k = from; k < to; k++) {
        append.add(k, 10L * k, gust);
      }
      append.commit();
    }
  }

  @Test
  void rowsWrittenBehindItHaveSerialsOfTheirOwn() {
    spoil();
    append(10, 15);
    table.rewind().to(1).run();
    append(20, 25);
    table.update().where(column("k").lessThan(3)).set("v", 7).style(ChangeStyle.MASK).run();
    table.delete().where(column("k").equalTo(5)).style(ChangeStyle.REWRITE).run();
    assertThat(table.scan().count()).isEqualTo(14);
    assertThat(table.scan().where(column("v").equalTo(7)).count()).isEqualTo(3);
    table.rewrite().run();
    assertThat(table.scan().count()).isEqualTo(14);
    assertThatThrownBy(() -> append(24, 26)).hasMessageContaining("its key already exists");
    append(10, 15);
    assertThat(table.scan().count()).isEqualTo(19);
    assertThat(table.now().record().totals().rows()).isEqualTo(19);
  }

  @Test
  void aFollowerEndsAtIt() {
    spoil();
    Follower follower = table.follow(0);
    assertThat(follower.poll()).isPresent();
    assertThat(follower.poll()).isPresent();
    table.rewind().to(1).run();
    append(30, 31);
    for (int i = 0; i < 2; i++) {
      assertThatThrownBy(follower::poll)
          .isInstanceOfSatisfying(
              RewoundException.class,
              e -> {
                assertThat(e.table()).isEqualTo("t.x");
                assertThat(e.version()).isEqualTo(3);
                assertThat(e.target()).isEqualTo(1);
              })
          .hasMessageContaining("Version 3 of table t.x is a rewind to version 1");
    }
    Follower behind = table.follow(3);
    assertThat(behind.poll().orElseThrow().rows().toList()).hasSize(1);
  }

  @Test
  void whoStartedBeforeItConflicts() {
    spoil();
    Append append = table.append();
    append.add(50, 1L);
    Transaction reader = lake.begin();
    assertThat(reader.table("t.x").scan().count()).isEqualTo(10);
    reader.createTable("t.sum", SCHEMA).add(1, 10L);
    table.rewind().to(1).run();
    assertThatThrownBy(append::commit)
        .isInstanceOfSatisfying(
            ConflictException.class,
            e -> {
              assertThat(e.kind()).isEqualTo(ConflictException.Kind.REWOUND);
              assertThat(e.table()).contains("t.x");
              assertThat(e.startVersion()).hasValue(2);
              assertThat(e.newestVersion()).hasValue(3);
            });
    assertThatThrownBy(reader::commit).isInstanceOf(ConflictException.class);
    assertThat(table.scan().count()).isEqualTo(10);
  }

  @Test
  void aRewindInATransactionTakesNothingBackUnseen() {
    spoil();
    try (Transaction work = lake.begin()) {
      work.table("t.x").rewind().to(1).run();
      append(70, 71);
      assertThatThrownBy(work::commit)
          .isInstanceOfSatisfying(
              ConflictException.class,
              e -> assertThat(e.kind()).isEqualTo(ConflictException.Kind.WRITE_WRITE))
          .hasMessageContaining("is now at version 3");
    }
    assertThat(table.scan().count()).isEqualTo(11);
  }

  @Test
  void othersChangesComeBehindItInItsTransaction() {
    spoil();
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.rewind().to(1).run();
      assertThat(inside.scan().where(column("v").equalTo(90)).count()).isEqualTo(1);
      inside.alter().add(Field.of("gust", Types.DOUBLE)).run();
      inside.delete().where(column("k").lessThan(3)).style(ChangeStyle.MASK).run();
      inside.update().where(column("k").equalTo(4)).set("gust", 0.5).run();
      inside.add(100, 1L, 2.5);
      assertThatThrownBy(() -> inside.rewind().to(0).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("already changed in this transaction");
      assertThatThrownBy(() -> inside.update().all().set("k", "no").run())
          .isInstanceOf(InvalidInputException.class);
      assertThat(inside.scan().count()).isEqualTo(8);
      work.commit();
    }
    assertThat(table.scan().count()).isEqualTo(8);
    assertThat(table.history(1).get(0).rewoundTo()).contains(1L);
    assertThat(table.history(1).get(0).operation()).startsWith("rewind + alter");
    assertThat(table.scan().where(column("gust").isNotNull()).count()).isEqualTo(2);
    assertThat(table.now().record().totals().rows()).isEqualTo(8);
    assertThat(table.now().files()).hasSize((int) table.now().record().totals().files());
    table.rewind().to(2).run();
    table.rewind().to(3).run();
    assertThat(table.scan().count()).isEqualTo(8);
  }

  @Test
  void aRewindThatFailsLeavesItsTransactionAsItWas() {
    spoil();
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      assertThatThrownBy(() -> inside.rewind().to(9).run())
          .isInstanceOf(NotFoundException.class)
          .hasMessage("Table t.x has no version 9: its versions are 0 to 2.");
      inside.add(33, 1L);
      work.commit();
    }
    assertThat(table.scan().count()).isEqualTo(11);
    assertThat(table.history(1).get(0).rewoundTo()).isEmpty();
  }

  @Test
  void severalTablesGoBackTogether() {
    Table other = lake.createTable("t.other", SCHEMA);
    append(0, 4);
    try (Append append = other.append()) {
      append.add(1, 1L);
      append.commit();
    }
    Instant then = lake.commits(1).get(0).time();
    table.delete().all().run();
    other.update().all().set("v", 9).run();
    WriteResult result = lake.rewind(then, List.of("t.x", "t.other"));
    assertThat(result.versions()).containsKeys(table.id(), other.id());
    assertThat(table.scan().count()).isEqualTo(4);
    assertThat(other.scan().where(column("v").equalTo(1)).count()).isEqualTo(1);
    assertThat(lake.rewind(then, List.of("t.x")).isCommitted()).isTrue();
    assertThatThrownBy(() -> lake.rewind(Instant.EPOCH, List.of("t.x", "t.other")))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("did not exist");
  }

  @Test
  void numbersOfWritersStayUnlessTheyAreToGoBack() {
    NamedWriter writer = table.openWriter("logger");
    writer.append(1, rows -> rows.add(1, 1L));
    writer.append(2, rows -> rows.add(2, 2L));
    table.rewind().to(2).run();
    assertThat(table.scan().count()).isEqualTo(1);
    assertThat(writer.append(2, rows -> rows.add(2, 2L)).isCommitted()).isFalse();
    assertThat(table.scan().count()).isEqualTo(1);
    table.rewind().to(1).writerFrom("logger", 1).run();
    assertThatThrownBy(() -> writer.append(3, rows -> rows.add(3, 3L)))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("opened again elsewhere");
    NamedWriter again = table.openWriter("logger");
    assertThat(again.lastApplied()).isZero();
    again.append(1, rows -> rows.add(1, 1L));
    assertThat(table.scan().count()).isEqualTo(1);
  }

  @Test
  void badInputIsAnsweredAndNothingIsChanged() {
    spoil();
    assertThatThrownBy(() -> table.rewind().run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("The rewind of table t.x has no target version");
    assertThatThrownBy(() -> table.rewind().to(-1).run()).isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> table.rewind().to(Instant.MIN).run())
        .isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> table.rewind().writerFrom("w", -1))
        .isInstanceOf(InvalidInputException.class);
    assertThat(table.rewind().to(2).run().isCommitted()).isFalse();
    assertThat(table.rewind().ago(Duration.ZERO).run().isCommitted()).isFalse();
    assertThat(table.now().version()).isEqualTo(2);
    Table made;
    try (Transaction work = lake.begin()) {
      TransactionTable fresh = work.createTable("t.fresh", SCHEMA);
      assertThatThrownBy(() -> fresh.rewind().to(0).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("created in this transaction");
      work.commit();
      made = lake.table("t.fresh");
    }
    lake.dropTable("t.fresh");
    assertThatThrownBy(() -> made.rewind().to(0).run()).hasMessageContaining("was dropped");
  }
}
