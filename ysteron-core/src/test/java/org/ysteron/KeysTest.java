package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.LongFunction;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.keys.KeyLimit;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.store.MemoryStore;

/** No two rows of one key, by the setting of the table. */
@SuppressWarnings("try") // limits are there while they are open
class KeysTest {
  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store);
  private final Table table =
      lake.createTable(
          "t.x",
          Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.INTEGER)).withKey("k"));

  KeysTest() {
    append(table, 0, 1, 2, 3);
  }

  private static void append(Table to, int... keys) {
    try (Append append = to.append()) {
      for (int k : keys) {
        append.add(k, 0);
      }
      append.commit();
    }
  }

  private Map<Integer, Integer> counts() {
    Map<Integer, Integer> counts = new TreeMap<>();
    for (Row row : table.scan().rows()) {
      counts.merge((Integer) row.get("k"), 1, Integer::sum);
    }
    return counts;
  }

  private void assertKeys(int... keys) {
    Map<Integer, Integer> expected = new TreeMap<>();
    for (int k : keys) {
      expected.merge(k, 1, Integer::sum);
    }
    assertThat(counts()).isEqualTo(expected);
    assertThat(table.now().record().totals().rows()).isEqualTo(keys.length);
  }

  private KeyExistsException refused(org.assertj.core.api.ThrowableAssert.ThrowingCallable work) {
    return catchThrowableOfType(KeyExistsException.class, work);
  }

  @Test
  void anAppendIsRefusedAndSaysWhichKeysAreWhere() {
    KeyExistsException refused = refused(() -> append(table, 7, 2, 8, 3, 7));
    assertThat(refused.rows()).isEqualTo(3);
    assertThat(refused.table()).isEqualTo("t.x");
    assertThat(refused.some())
        .containsExactlyInAnyOrder(
            new KeyExistsException.Existing("k = 2", 0, 2),
            new KeyExistsException.Existing("k = 3", 0, 3),
            new KeyExistsException.Existing("k = 7", -1, -1));
    assertThat(refused)
        .hasMessageStartingWith(
            "3 rows cannot be added to table t.x because their keys already exist: k = ")
        .hasMessageEndingWith(
            "Nothing was changed. Upsert them, or skip the rows whose keys exist.");
    assertKeys(0, 1, 2, 3);
    assertThat(store.list("data/" + table.id(), "", 10)).hasSize(1);
  }

  @Test
  void rowsThatAreThereAreLeftOutByChoice() {
    try (Append append = table.append(WriteRules::skippingRejected)) {
      for (int k : new int[] {7, 2, 8, 3, 7, 9}) {
        append.add(k, 1);
      }
      Table other = Lake.open(store).table("t.x");
      append(other, 8);
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(4);
      assertThat(append.skipped().reasons())
          .containsExactly(
              "More than once in these rows: k = 7",
              "2 rows cannot be added because of existing keys: k = 2 (serial 2 in data file 0); k = 3 (serial 3 in data file 0)",
              "1 row cannot be added because of existing keys: k = 8 (serial 4 in data file 1)");
    }
    assertKeys(0, 1, 2, 3, 7, 8, 9);
    assertThat(table.scan().where(column("v").equalTo(1)).count()).isEqualTo(2);
  }

  @ParameterizedTest
  @ValueSource(ints = {0, 2})
  void keysThatCameSinceAreMetAtTheCommit(int limit) {
    try (KeyLimit few = new KeyLimit(limit);
        Append append = table.append()) {
      append.add(4, 0);
      append.add(5, 0);
      append.add(6, 0);
      append(table, 6, 20);
      KeyExistsException refused = refused(append::commit);
      assertThat(refused.some()).singleElement().hasToString("k = 6 (serial 4 in data file 1)");
    }
    assertKeys(0, 1, 2, 3, 6, 20);
  }

  @Test
  void rowsThatHaveGoneAreNotInTheWay() {
    table.delete().where(column("k").between(1, 2)).style(ChangeStyle.MASK).run();
    append(table, 1);
    try (Append append = table.append()) {
      append.add(5, 0);
      append(table, 5, 6);
      table.delete().where(column("k").equalTo(5)).style(ChangeStyle.MASK).run();
      append.commit();
    }
    try (Transaction work = lake.begin()) {
      work.table("t.x").delete().where(column("k").equalTo(0)).run();
      work.table("t.x").add(0, 9);
      table.rewrite().run(); // row 0 lies elsewhere now
      work.commit();
    }
    assertKeys(0, 1, 3, 5, 6);
  }

  @Test
  void aTransactionMeetsItsOwnRowsAndEnds() {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.add(4, 0);
      assertThat(inside.scan().count()).isEqualTo(5);
      inside.add(4, 1);
      assertThat(refused(inside::scan)).hasMessageContaining("k = 4 (serial 4 in data file 1)");
      assertThatThrownBy(work::commit)
          .isInstanceOf(EndedException.class)
          .hasMessageContaining("k = 4");
    }
    assertKeys(0, 1, 2, 3);
  }

  @Test
  void aTransactionThatMetAKeyOfOthersMayTryAgain() {
    int[] tries = {0};
    lake.inTransaction(
        org.ysteron.option.Isolation.SERIALIZABLE,
        work -> {
          work.table("t.x").add(4 + tries[0], 0);
          if (tries[0]++ == 0) {
            append(table, 4);
          }
          return null;
        });
    assertThat(tries[0]).isEqualTo(2);
    try (Transaction work = lake.begin()) {
      work.table("t.x").add(6, 0);
      append(table, 6);
      assertThatThrownBy(work::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("got rows with the same keys as rows of this transaction")
          .hasMessageContaining("k = 6");
    }
    assertKeys(0, 1, 2, 3, 4, 5, 6);
  }

  @ParameterizedTest
  @ValueSource(ints = {0, 2})
  void rowsThatATransactionMovedAfterwardsAreTestedToo(int limit) {
    try (KeyLimit few = new KeyLimit(limit);
        Transaction work = lake.begin(org.ysteron.option.Isolation.SNAPSHOT)) {
      TransactionTable inside = work.table("t.x");
      inside.add(4, 1);
      inside.add(5, 1);
      inside.add(6, 1);
      inside.rewrite().run();
      inside.delete().where(column("k").equalTo(5)).run();
      append(table, 5);
      table.upsert(MergeSource.values(List.of("k", "v"), to -> to.add(new Object[] {6, 2}))).run();
      assertThatThrownBy(work::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("k = 6");
    }
    assertKeys(0, 1, 2, 3, 5, 6);
  }

  @Test
  void mergesThatMakeKeysAreTested() {
    Merge byValue =
        table
            .merge(MergeSource.values(List.of("k", "v"), to -> to.add(new Object[] {3, 77})))
            .on("v")
            .unmatched(Merge.takeAll());
    assertThat(refused(byValue::run)).hasMessageContaining("k = 3");
    Merge computed =
        table
            .merge(MergeSource.values(List.of("k", "v"), to -> to.add(new Object[] {9, 77})))
            .unmatched(Merge.setBy(Map.of("k", (row, given) -> 2)));
    assertThat(refused(computed::run)).hasMessageContaining("k = 2");
    Merge twice =
        table
            .merge(
                MergeSource.values(
                    List.of("k", "v"),
                    to -> {
                      to.add(new Object[] {9, 77});
                      to.add(new Object[] {9, 78});
                    }))
            .on("v")
            .unmatched(Merge.takeAll());
    assertThat(refused(twice::run)).hasMessageContaining("k = 9 more than once in these rows");
    assertKeys(0, 1, 2, 3);
  }

  @Test
  void theSettingSaysWhoTests() {
    table.alter().set(TableSettings.KEY_TEST, "within writes").run();
    append(table, 1);
    assertThat(refused(() -> append(table, 9, 9)).some())
        .singleElement()
        .hasToString("k = 9 more than once in these rows");
    table.alter().set(TableSettings.KEY_TEST, "declared").run();
    append(table, 8, 8);
    table.update().where(column("k").equalTo(0)).set("k", 8).run();
    assertKeys(1, 1, 2, 3, 8, 8, 8);
    assertThatThrownBy(() -> table.alter().set(TableSettings.KEY_TEST, "exact").run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("The key (k) is there already in 3 rows");
    table.delete().where(column("k").in(List.of(1, 8))).run();
    table.alter().set(TableSettings.KEY_TEST, "exact").run();
    assertThat(refused(() -> append(table, 2))).isNotNull();
    assertThatThrownBy(() -> table.alter().set(TableSettings.KEY_TEST, "often").run())
        .hasMessageContaining("one of declared, within_writes, exact");
  }

  @ParameterizedTest
  @ValueSource(booleans = {true, false})
  void aKeyThatOthersSetMeanwhileIsProvedOnTheRows(boolean skipsRejected) {
    table.alter().set(TableSettings.KEY_TEST, "declared").run();
    try (Append append = table.append(rules -> skipsRejected ? rules.skippingRejected() : rules)) {
      append.add(3, 1);
      append.add(5, 1);
      append.add(5, 2);
      append.add(6, 3);
      table.alter().set(TableSettings.KEY_TEST, "exact").run();
      if (skipsRejected) {
        append.commit();
        assertThat(append.skipped().rows()).isEqualTo(2);
        assertKeys(0, 1, 2, 3, 5, 6);
      } else {
        assertThatThrownBy(append::commit)
            .isInstanceOf(ConflictException.class)
            .hasMessageContaining("2 rows cannot be added because of existing keys");
        assertKeys(0, 1, 2, 3);
      }
    }
  }

  @Test
  void aKeyWhoseTypeOthersWidenedIsFound() {
    try (Append append = table.append()) {
      append.add(6, 1);
      table.alter().widen("k", Types.decimal(20, 3)).run();
      try (Append other = table.append()) {
        other.add(new java.math.BigDecimal("6.000"), 2);
        other.commit();
      }
      assertThat(refused(append::commit)).hasMessageContaining("k = 6.000");
    }
    assertThat(table.scan().count()).isEqualTo(5);
  }

  @Test
  void manyKeysArePartedByHash() {
    try (KeyLimit few = new KeyLimit(5)) {
      table.alter().layout(LayoutPlan.none().rule("hash k into 3")).run();
      try (Append append = table.append(WriteRules::skippingRejected)) {
        for (int i = 0; i < 40; i++) {
          append.add(i % 30, i);
        }
        append.commit();
        assertThat(append.skipped().rows()).isEqualTo(14);
      }
      assertThat(counts().values()).hasSize(30).containsOnly(1);
      assertThat(refused(() -> append(table, 40, 41, 42, 43, 44, 45, 29)).rows()).isEqualTo(1);
      append(table, 40, 41, 42, 43, 44, 45);
      assertThat(refused(() -> table.update().all().setBy("k", row -> 1).run()).rows())
          .isEqualTo(35);
      table.update().all().setBy("k", row -> (Integer) row.get("k") + 1).run();
      assertThat(counts().values()).hasSize(36).containsOnly(1);
    }
  }

  @Test
  void rowsThatMakeATableGrowAreTestedWithTheOthers() {
    try (Append append = table.append(rules -> rules.with(Drift.GROW))) {
      append.add(4, 1).addObject(Map.of("k", 9, "more", 1)).addObject(Map.of("k", 3));
      assertThat(refused(append::commit)).hasMessageContaining("k = 3");
    }
    assertKeys(0, 1, 2, 3);
    assertThat(table.schema().columns()).hasSize(2);
    try (Append append = table.append(rules -> rules.with(Drift.GROW).skippingRejected())) {
      append.add(4, 1).addObject(Map.of("k", 9, "more", 1)).addObject(Map.of("k", 3));
      append.addObject(Map.of("k", 4)).addObject(Map.of("k", 9));
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(3);
    }
    assertKeys(0, 1, 2, 3, 4, 9);
  }

  @Test
  void namedWritersLeaveOutOrAreRefused() {
    NamedWriter writer = table.openWriter("w");
    assertThat(refused(() -> writer.append(1, rows -> rows.add(1, 1)))).isNotNull();
    assertThat(writer.lastApplied()).isEqualTo(-1);
    writer.skippingRejected().append(1, rows -> List.of(1, 5).forEach(k -> rows.add(k, 1)));
    assertThat(writer.skipped().rows()).isEqualTo(1);
    assertThat(writer.lastApplied()).isEqualTo(1);
    assertKeys(0, 1, 2, 3, 5);
  }

  private List<String> duplicates() {
    return table.now().duplicates(10).stream()
        .map(row -> row.key().get("k") + " serial " + row.serial() + " of " + row.birth())
        .toList();
  }

  @ParameterizedTest
  @ValueSource(ints = {0, 2})
  void doublesAreListedAndChangedBySerial(int limit) {
    table.alter().set(TableSettings.KEY_TEST, "declared").run();
    append(table, 2, 9, 3, 2, 10);
    try (KeyLimit few = new KeyLimit(limit)) {
      assertThat(duplicates())
          .containsExactlyInAnyOrder(
              "2 serial 2 of 2",
              "2 serial 4 of 4",
              "2 serial 7 of 4",
              "3 serial 3 of 2",
              "3 serial 6 of 4");
      assertThat(table.now().duplicates(1)).hasSizeBetween(2, 3);
    }
    table.update().whereSerial(Set.of(7L)).set("k", 11).run();
    table.rewrite().run();
    table.delete().whereSerial(Set.of(2L, 6L)).run();
    assertThat(duplicates()).isEmpty();
    assertKeys(0, 1, 2, 3, 9, 10, 11);
    table.alter().set(TableSettings.KEY_TEST, "exact").run();
    assertThatThrownBy(() -> table.delete().whereSerial(Set.of(3L, 6L)).run())
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("only 1 of the 2 rows with these serials: 3, 6");
    assertThat(
            table
                .delete()
                .where(column("k").equalTo(1))
                .whereSerial(Set.of(3L, 6L))
                .run()
                .report()
                .isNothing())
        .isTrue();
    table.alter().dropKey().run();
    assertThatThrownBy(() -> table.now().duplicates(1)).hasMessageContaining("has no primary key");
  }

  @Test
  void rowsToldBySerialMeetNobodyElse() {
    try (Transaction work = lake.begin()) {
      work.table("t.x").delete().whereSerial(Set.of(2L)).run();
      append(table, 7);
      table.update().where(column("k").equalTo(3)).set("v", 5).run();
      work.commit();
    }
    assertKeys(0, 1, 3, 7);
    try (Transaction work = lake.begin()) {
      work.table("t.x").update().whereSerial(Set.of(1L)).set("v", 8).run();
      table.update().where(column("k").equalTo(1)).set("v", 5).run();
      assertThatThrownBy(work::commit).isInstanceOf(ConflictException.class);
    }
  }

  /** Rows enough for their order to be looked at. */
  private static int[] keys(int from, int to, int step) {
    return java.util.stream.IntStream.iterate(from, k -> k < to, k -> k + step).toArray();
  }

  @Test
  void rowsInOrderAreTestedLikeOthers() {
    append(table, keys(10, 40_000, 2));
    append(table, keys(11, 40_001, 2)); // among those
    assertThat(refused(() -> append(table, keys(39_999, 80_000, 1))).some())
        .singleElement()
        .asString()
        .startsWith("k = 39999 (serial ");
    assertThat(counts().values()).containsOnly(1).hasSize(39_994);
  }

  @Test
  void orderThatEndsIsFound() {
    int[] broken = keys(10, 40_000, 1);
    broken[35_000] = 20; // after many in order
    assertThat(refused(() -> append(table, broken)).some())
        .singleElement()
        .hasToString("k = 20 more than once in these rows");
    int[] fallen = keys(10, 40_000, 1);
    fallen[35_000] = 7;
    append(table, fallen);
    try (Append append = table.append()) {
      for (int k : keys(50_000, 90_000, 2)) {
        append.add(k, 0);
      }
      append(table, keys(50_001, 90_001, 2));
      append(table, 70_000);
      assertThat(refused(append::commit)).hasMessageContaining("k = 70000 (serial");
    }
    try (Append append = table.append(WriteRules::skippingRejected)) {
      for (int k : keys(50_000, 90_000, 2)) {
        append.add(k, 0);
      }
      append.commit();
      assertThat(append.skipped().rows()).isEqualTo(1);
    }
    assertThat(counts().values()).containsOnly(1);
  }

  @ParameterizedTest
  @ValueSource(ints = {0, 2})
  void aKeyThatOthersRenamedOrDroppedMeanwhile(int limit) {
    try (KeyLimit few = new KeyLimit(limit)) {
      try (Append append = open(4, 5, 6)) {
        table.alter().rename("k", "n").run();
        append(table, 6);
        assertThat(refused(append::commit)).hasMessageContaining("n = 6");
      }
      try (Append append = open(7, 8, 9)) {
        append(table, 9);
        table.alter().dropKey().run();
        append.commit();
        assertThat(append.skipped().rows()).isZero();
      }
      assertThat(table.scan().where(column("n").equalTo(9)).count()).isEqualTo(2);
      table.delete().where(column("n").equalTo(9)).run();
      table.alter().key("n").run();
      try (Append append = open(10, 11, 12)) {
        append(table, 12);
        table.alter().dropKey().key("v", "n").run();
        append.commit();
      }
      try (Append append = open(13, 14, 15)) {
        append(table, 15);
        table.alter().set(TableSettings.KEY_TEST, "declared").run();
        append.commit();
      }
    }
    assertThat(table.scan().where(column("n").greaterThan(9)).count()).isEqualTo(8);
  }

  private Append open(int... keys) {
    Append append = table.append();
    for (int k : keys) {
      append.add(k, 1);
    }
    return append;
  }

  @Test
  void aStricterRuleIsProvedOnRowsThatCameMeanwhileToo() {
    table.alter().set(TableSettings.KEY_TEST, "declared").run();
    try (Transaction work = lake.begin()) {
      work.table("t.x").alter().set(TableSettings.KEY_TEST, "exact").run();
      append(table, 3);
      assertThatThrownBy(work::commit)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("k = 3");
    }
    assertThat(duplicates()).hasSize(2);
    table.delete().whereSerial(Set.of(4L)).run();
    try (Transaction work = lake.begin()) {
      work.table("t.x").alter().set(TableSettings.KEY_TEST, "exact").run();
      append(table, 9);
      work.commit();
    }
    assertKeys(0, 1, 2, 3, 9);
    assertThat(refused(() -> append(table, 9))).isNotNull();
  }

  @Test
  void aKeyThatIsDeclaredOnlyIsNotProvedOnRowsThatCameMeanwhile() {
    table.alter().dropKey().set(TableSettings.KEY_TEST, "declared").run();
    try (Transaction work = lake.begin()) {
      work.table("t.x").alter().key("k").run();
      append(table, 3);
      work.commit();
    }
    assertThat(duplicates()).hasSize(2);
  }

  @Test
  void keysOfEveryTypeAreFoundAmongRowsInNoOrder() {
    Map<Type, LongFunction<Object>> types = new LinkedHashMap<>();
    types.put(Types.decimal(30, 2), i -> new BigDecimal(BigInteger.valueOf(i).pow(3), 2));
    types.put(Types.decimal(10, 2), i -> BigDecimal.valueOf(i % 1_000_000, 2));
    types.put(Types.UUID, i -> new UUID(i, -i));
    types.put(Types.BINARY, i -> new byte[] {(byte) i, (byte) (i >> 8), (byte) (i >> 16)});
    types.put(Types.DOUBLE, i -> i / 8.0);
    types.put(Types.REAL, i -> i / 4.0f);
    types.put(Types.DATE, i -> LocalDate.ofEpochDay(i % 100_000));
    types.put(Types.INSTANT, Instant::ofEpochSecond);
    types.put(Types.text(), i -> "key " + i);
    types.put(Types.INTEGER, i -> (int) i);
    types.forEach(
        (type, of) -> {
          Schema schema = Schema.of(Field.of("k", type), Field.of("v", Types.INTEGER)).withKey("k");
          Table rows = lake.createTable("t.k" + Integer.toHexString(type.hashCode()), schema);
          try (Append append = rows.append()) {
            for (long i = 1; i <= 1500; i++) {
              append.add(of.apply((i * 7919 % 100_003) * (i % 2 == 0 ? 1 : -1)), 1);
            }
            append.commit();
          }
          for (long i = 1; i <= 1500; i += 149) {
            Object key = of.apply((i * 7919 % 100_003) * (i % 2 == 0 ? 1 : -1));
            assertThat(rows.scan().where(column("k").equalTo(key)).count()).as("%s", key).isOne();
            try (Append append = rows.append()) {
              append.add(key, 2);
              assertThat(refused(append::commit).rows()).as("%s", key).isEqualTo(1);
            }
          }
        });
  }
}
