package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.Budget;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.TableFile;
import org.ysteron.store.ForwardingOutput;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectOutput;

@Timeout(120)
class CompactionTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));

  private final AtomicReference<Runnable> atNextFile = new AtomicReference<>();
  private final MemoryStore store = new MemoryStore();
  private final Lake lake =
      Lake.create(
          new ForwardingStore(store) {
            @Override
            public ObjectOutput put(String name) {
              return new ForwardingOutput(super.put(name)) {
                @Override
                public void commit() {
                  super.commit();
                  Runnable work = atNextFile.getAndSet(null);
                  if (work != null) {
                    work.run();
                  }
                }
              };
            }
          },
          LakeOptions.DEFAULTS.threads(2));

  @AfterEach
  void close() {
    lake.close();
  }

  private Table table(TableSettings settings) {
    return lake.createTable("t.x", SCHEMA, settings);
  }

  private static void append(Table table, int first, int count) {
    try (Append append = table.append()) {
      for (int k = first; k < first + count; k++) {
        append.add(k, "row " + k);
      }
      append.commit();
    }
  }

  private static void appendEach(Table table, int files, int rows) {
    for (int f = 0; f < files; f++) {
      append(table, f * rows, rows);
    }
  }

  private static List<Integer> keys(Scan scan) {
    List<Integer> keys = new ArrayList<>();
    try (Results<Row> rows = scan.rows()) {
      rows.forEach(row -> keys.add(row.getInt("k")));
    }
    return keys;
  }

  private static List<Integer> range(int from, int to) {
    return IntStream.range(from, to).boxed().toList();
  }

  @Test
  void manyFilesBecomeOneAndNothingElseChanges() {
    Table table = table(TableSettings.DEFAULTS);
    appendEach(table, 30, 10);
    long before = table.now().version();
    CompactionPlan plan = table.compact().dryRun();
    assertThat(table.now().version()).isEqualTo(before);
    CompactionReport report = table.compact().run();
    assertThat(report.read()).isEqualTo(new CompactionReport.Amount(30, plan.bytes(), 300));
    assertThat(plan.groups()).hasSize(1);
    assertThat(plan.files()).isEqualTo(30);
    assertThat(plan.rows()).isEqualTo(300);
    assertThat(report.written().files()).isEqualTo(1);
    assertThat(report.commits()).hasSize(1);
    assertThat(report.skipped()).isEmpty();
    assertThat(report.isSpent()).isFalse();
    assertThat(table.now().record().operation()).isEqualTo("compact");
    assertThat(table.now().record().onlyMoved()).isTrue();
    assertThat(table.now().files()).hasSize(1);
    assertThat(keys(table.scan())).isEqualTo(range(0, 300));
    assertThat(keys(table.at(before).scan())).isEqualTo(range(0, 300));
    assertThat(table.compact().run()).isEqualTo(CompactionReport.NOTHING);
    assertThat(table.compact().dryRun().groups()).isEmpty();
  }

  @Test
  void maskedRowsAreLeftBehindForGood() {
    Table table = table(TableSettings.DEFAULTS.fileBytes(1024));
    append(table, 0, 1000);
    append(table, 1000, 1000);
    assertThat(table.compact().run().commits()).isEmpty();
    table.delete().where(column("k").lessThan(150)).style(ChangeStyle.MASK).run();
    assertThat(table.compact().run().commits()).isEmpty();
    table.delete().where(column("k").lessThan(200)).style(ChangeStyle.MASK).run();
    CompactionReport report = table.compact().run();
    assertThat(report.maskedRows()).isEqualTo(200);
    assertThat(report.read().files()).isEqualTo(1);
    assertThat(table.now().files()).allMatch(file -> file.maskedRows() == 0);
    assertThat(keys(table.scan())).isEqualTo(range(200, 2000));
  }

  @Test
  void aBudgetEndsARunAndAnotherRunGoesOn() {
    Table table = table(TableSettings.DEFAULTS);
    table.alter().layout(LayoutPlan.none().rule("range k every 100")).run();
    for (int i = 0; i < 12; i++) {
      append(table, 0, 1000);
    }
    int runs = 0;
    CompactionReport report;
    do {
      report = table.compact().within(Budget.ALL.ofFiles(20)).run();
      assertThat(report.read().files()).isBetween(12L, 40L);
      runs++;
    } while (report.isSpent());
    assertThat(runs).isBetween(4, 7);
    assertThat(table.now().files()).hasSize(10);
    assertThat(keys(table.scan())).hasSize(12_000);
    Budget noTime = Budget.ALL.ofTime(Duration.ofNanos(1));
    assertThat(table.compact().within(noTime).run().isSpent()).isFalse();
    for (Budget budget : List.of(Budget.ALL, Budget.ALL.ofBytes(1))) {
      assertThatThrownBy(() -> budget.ofFiles(0))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("A limit of 0 files allows no work");
      assertThatThrownBy(() -> budget.ofBytes(-1)).isInstanceOf(InvalidInputException.class);
      assertThatThrownBy(() -> budget.ofTime(Duration.ZERO))
          .isInstanceOf(InvalidInputException.class);
    }
  }

  @Test
  void onlyFilesThatMayHoldSomeRowsArePacked() {
    Table table = table(TableSettings.DEFAULTS);
    appendEach(table, 40, 10);
    CompactionReport report = table.compact().where(column("k").lessThan(200)).run();
    assertThat(report.read().files()).isEqualTo(20);
    assertThat(table.now().files()).hasSize(21);
    Condition none = column("k").greaterThan(1_000_000);
    assertThat(table.compact().where(none).run()).isEqualTo(CompactionReport.NOTHING);
    Compaction unknown = table.compact().where(column("q").equalTo(1));
    assertThatThrownBy(unknown::run)
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("q");
    assertThat(keys(table.scan())).isEqualTo(range(0, 400));
  }

  @Test
  void filesOfOldFormsComeToTheNewestWhenAsked() {
    Table table = table(TableSettings.DEFAULTS);
    appendEach(table, 5, 100);
    table.alter().add(Field.of("n", Types.INTEGER).withDefault(7)).run();
    table.alter().layout(LayoutPlan.none().rule("range k every 50").sortedBy("k descending")).run();
    assertThat(table.compact().run().commits()).isEmpty();
    assertThat(table.compact().renewing().run().read().files()).isEqualTo(5);
    assertThat(table.now().files()).hasSize(10).allMatch(file -> file.layout() == 1);
    assertThat(table.scan().where(column("n").equalTo(7)).count()).isEqualTo(500);
    assertThat(table.compact().renewing().run()).isEqualTo(CompactionReport.NOTHING);
  }

  /** Rows that are sorted come into files of the target size, and are not packed for ever. */
  @Test
  void sortedRowsArePackedInOrder() {
    Table table = table(TableSettings.DEFAULTS.fileBytes(20_000));
    table.alter().layout(LayoutPlan.none().sortedBy("t")).run();
    Random random = new Random(3);
    for (int f = 0; f < 60; f++) {
      try (Append append = table.append()) {
        for (int i = 0; i < 50; i++) {
          append.add(random.nextInt(), "t" + random.nextInt(1_000_000));
        }
        append.commit();
      }
    }
    assertThat(table.compact().run().commits()).isNotEmpty();
    assertThat(table.compact().run()).isEqualTo(CompactionReport.NOTHING);
    List<String> texts = new ArrayList<>();
    table.scan().rows().forEach(row -> texts.add((String) row.get("t")));
    int from = 0;
    for (TableFile file : table.now().files()) {
      assertThat(texts.subList(from, from + (int) file.rows())).isSorted();
      from += (int) file.rows();
    }
    assertThat(table.scan().count()).isEqualTo(3000);
  }

  @Test
  void aDamagedFileIsNamedAndTheOthersArePacked() {
    Table table = table(TableSettings.DEFAULTS);
    appendEach(table, 30, 10);
    String damaged = table.now().files().get(7).name();
    String missing = table.now().files().get(20).name();
    byte[] bytes = store.read(damaged);
    bytes[20] ^= 1;
    replace(damaged, bytes);
    store.delete(missing);
    CompactionReport report = table.compact().run();
    assertThat(report.read().files()).isEqualTo(28);
    assertThat(report.skipped()).hasSize(2);
    assertThat(report.skipped()).extracting("number").containsExactlyInAnyOrder(7L, 20L);
    assertThat(report.skipped()).extracting("name").contains(damaged, missing);
    assertThat(report.skipped().get(0).reason()).contains("Table t.x").contains("file 7");
    assertThat(table.now().files()).hasSize(3);
    assertThat(keys(table.scan().where(column("k").atLeast(210)))).isEqualTo(range(210, 300));
    assertThat(dataFiles()).isEqualTo(29 + 1); // what was begun with them is gone again
  }

  private void replace(String name, byte[] bytes) {
    store.delete(name);
    assertThat(store.createIfAbsent(name, bytes)).isTrue();
  }

  private int dataFiles() {
    int files = 0;
    for (var directory : store.list("data", "", 10)) {
      files += store.list("data/" + directory.segment(), "", 1000).size();
    }
    return files;
  }

  /** While a compaction has written its first file, others do something. */
  @ParameterizedTest
  @ValueSource(
      strings = {"delete", "update", "append", "alter", "layout", "pack", "rewind", "drop"})
  void othersWorkWhileItPacks(String what) {
    Table packed = table(TableSettings.DEFAULTS);
    appendEach(packed, 30, 10);
    List<Integer> expected = new ArrayList<>(range(0, 300));
    Lake elsewhere = Lake.open(store);
    Table table = elsewhere.table("t.x");
    Compaction compaction = packed.compact();
    atNextFile.set(
        () -> {
          switch (what) {
            case "delete" -> {
              table.delete().where(column("k").between(5, 104)).style(ChangeStyle.MASK).run();
              expected.removeIf(k -> k >= 5 && k <= 104);
            }
            case "update" -> table.update().where(column("k").equalTo(55)).set("t", "new").run();
            case "append" -> {
              append(table, 1000, 5);
              expected.addAll(range(1000, 1005));
            }
            case "alter" -> table.alter().rename("t", "u").run();
            case "layout" -> table.alter().layout(LayoutPlan.none().rule("hash k into 3")).run();
            case "pack" -> table.rewrite().where(column("k").lessThan(100)).run();
            case "rewind" -> {
              table.rewind().to(10).run();
              expected.removeIf(k -> k >= 100);
            }
            default -> elsewhere.dropTable("t.x");
          }
        });
    if (what.equals("drop")) {
      assertThatThrownBy(compaction::run)
          .isInstanceOf(ConflictException.class)
          .hasMessageContaining("t.x was dropped");
      elsewhere.bringBackTable("t.x");
    } else {
      CompactionReport report = compaction.run();
      // Rows that others delete meanwhile are masked in what was packed, and go by a second one.
      assertThat(report.commits())
          .hasSizeBetween(1, what.equals("delete") || what.equals("pack") ? 2 : 1);
      assertThat(report.skipped()).isEmpty();
    }
    assertThat(keys(table.scan())).containsExactlyInAnyOrderElementsOf(expected);
    assertThat(table.scan().where(column("k").equalTo(55)).count())
        .isEqualTo(expected.contains(55) ? 1 : 0);
    assertThat(table.now().files().size()).isBetween(1, what.equals("drop") ? 30 : 3);
    elsewhere.close();
  }

  @Test
  void twoAtOnceLoseAndDoubleNothing() throws Exception {
    Table table = table(TableSettings.DEFAULTS);
    table.alter().layout(LayoutPlan.none().rule("hash k into 5")).run();
    appendEach(table, 40, 100);
    ExecutorService threads = Executors.newFixedThreadPool(4);
    List<Future<CompactionReport>> running = new ArrayList<>();
    for (int i = 0; i < 3; i++) {
      running.add(
          threads.submit(
              () -> {
                try (Lake own = Lake.open(store)) {
                  return own.table("t.x").compact().run();
                }
              }));
    }
    Future<?> changes =
        threads.submit(
            () -> {
              for (int k = 0; k < 4000; k += 100) {
                table.update().where(column("k").equalTo(k)).set("t", "new " + k).run();
                table.delete().where(column("k").equalTo(k + 50)).run();
              }
            });
    changes.get();
    for (Future<CompactionReport> one : running) {
      assertThat(one.get().skipped()).isEmpty();
    }
    threads.shutdown();
    List<Integer> expected = new ArrayList<>(range(0, 4000));
    expected.removeIf(k -> k % 100 == 50);
    assertThat(keys(table.scan())).containsExactlyInAnyOrderElementsOf(expected);
    assertThat(table.scan().where(column("t").startsWith("new ")).count()).isEqualTo(40);
  }
}
