package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.WriteRules;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.StoreException;

/** Rows left out of a commit beside what else others do meanwhile. */
class LateRefusalTest {
  private final MemoryStore store = new MemoryStore();
  private final int[] silent = {0};
  private final Lake lake =
      Lake.create(
          new ForwardingStore(store) {
            @Override
            public boolean createIfAbsent(String name, byte[] content) {
              boolean created = super.createIfAbsent(name, content);
              if (silent[0] > 0 && name.startsWith("ledger/")) {
                silent[0]--;
                throw new StoreException("no reply");
              }
              return created;
            }
          });
  private final Table table =
      lake.createTable(
          "t.x",
          Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("s", Types.struct(Field.of("x", Types.INTEGER)))));

  private Row inner(Integer x) {
    return Row.of(Schema.of(Field.of("x", Types.INTEGER)).struct(), x);
  }

  private List<Integer> keys() {
    List<Integer> keys = new ArrayList<>();
    table.scan().rows().forEach(row -> keys.add((Integer) row.get(0)));
    keys.sort(null);
    return keys;
  }

  private Append rows(int count) {
    Append append = table.append(rules -> rules.with(Drift.GROW).skippingRejected());
    for (int k = 0; k < count; k++) {
      append.add(k, inner(k % 2 == 0 ? null : (Integer) k));
    }
    return append;
  }

  @Test
  void aWholePartMayBeLeftOut() {
    table.alter().layout(LayoutPlan.none().rule("range k every 10")).run();
    try (Append append = rows(30)) {
      Table other = Lake.open(store).table("t.x");
      other.alter().check("upper", column("k").atLeast(13)).run();
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(13);
    }
    assertThat(keys()).hasSize(17).startsWith(13);
    assertThat(table.now().files()).hasSize(2);
    assertThat(table.now().page().record().lives().born()).isEqualTo(17);
    assertThat(table.scan().where(column("k").lessThan(20)).count()).isEqualTo(7);
  }

  @Test
  void aFieldOfARenamedStructIsLookedAt() {
    try (Append append = rows(6)) {
      table.alter().rename("s", "r").rename("k", "n").notNull("r.x").run();
      append.commit();
      assertThat(append.skipped().reasons())
          .singleElement()
          .asString()
          .startsWith("Column r.x is null in 3 rows, such as n = 0");
    }
    assertThat(keys()).containsExactly(1, 3, 5);
  }

  @Test
  void whatIsNotAskedAnyMoreLeavesNothingOut() {
    try (Append append = rows(4)) {
      table.alter().check("c", column("k").lessThan(2)).run();
      table.alter().dropCheck("c").run();
      append.commit();
      assertThat(append.skipped()).isEqualTo(SkippedRows.NONE);
    }
    assertThat(keys()).hasSize(4);
  }

  @Test
  void aCommitThatIsAskedAgainSaysWhatItLeftOut() {
    try (Append append = rows(4)) {
      table.alter().check("c", column("k").lessThan(2)).run();
      silent[0] = 1;
      try {
        append.commit();
      } catch (UnknownOutcomeException e) {
        e.attempt().run();
      }
      assertThat(append.skipped().rows()).isEqualTo(2);
    }
    assertThat(keys()).containsExactly(0, 1);
  }

  @Test
  void aTransactionIsRefusedAsAWhole() {
    try (Transaction work = lake.begin()) {
      work.table("t.x").add(1, inner(1));
      work.table("t.x").add(5, inner(1));
      table.alter().check("c", column("k").lessThan(2)).run();
      assertThatThrownBy(work::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("The check c (k < 2) is false in 1 row");
    }
    assertThat(keys()).isEmpty();
  }

  @Test
  void rowsOfAGrowthThatOthersMadeTooAreLookedAtByTheirColumns() {
    Schema wider = Schema.of(Field.of("k", Types.INTEGER), Field.of("more", Types.BIGINT));
    try (Append append = rows(2)) {
      append.addRow(Row.of(wider.struct(), 10, 7L));
      append.addRow(Row.of(wider.struct(), 11, 3L));
      table
          .alter()
          .add(Field.of("other", Types.INTEGER))
          .add(Field.of("more", Types.BIGINT))
          .check("m", column("more").lessThan(5))
          .run();
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(1);
    }
    assertThat(keys()).containsExactly(0, 1, 11);
    assertThat(table.scan().where(column("more").equalTo(3)).count()).isEqualTo(1);
  }

  @Test
  void rowsAreLeftOutOfManyFilesAndBatches() {
    try (Append append = table.append(WriteRules::skippingRejected)) {
      for (int k = 0; k < 30_000; k++) {
        append.add(k, inner(k));
      }
      table.alter().check("c", column("s.x").greaterThan(9_999).not()).run();
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(20_000);
    }
    assertThat(table.scan().count()).isEqualTo(10_000);
    table.rewrite().run();
    assertThat(keys()).hasSize(10_000).endsWith(9_999);
    table.delete().where(column("k").lessThan(9_990)).run();
    assertThat(keys()).hasSize(10);
  }
}
