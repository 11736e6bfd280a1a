package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.option.Isolation;
import org.ysteron.store.MemoryStore;

/** Writers of different rows in one process, who pack all files again and again, never meet. */
class PackingTest {
  private static final int WRITERS = 3;
  private static final int ROUNDS = 12;

  private static void write(Lake lake, Table table, int writer) {
    for (int round = 0; round < ROUNDS; round++) {
      int k = 1000 * writer + round;
      try (Append append = table.append()) {
        append.add(k, 0L);
        append.commit();
      }
      add(table.update(), k, 1);
      table.rewrite().run();
      lake.inTransaction(
          Isolation.SERIALIZABLE,
          work -> {
            add(work.table("t.x").update(), k, 5);
            work.table("t.x").rewrite().run();
            add(work.table("t.x").update(), k, -5);
            return k;
          });
    }
  }

  private static void add(Update update, int k, long more) {
    update.where(column("k").equalTo(k)).setBy("v", row -> (Long) row.get("v") + more).run();
  }

  @Test
  void packingMakesNobodyFailAndLosesAndDoublesNothing() throws Exception {
    MemoryStore store = new MemoryStore();
    Lake lake = Lake.create(store);
    Schema schema = Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT));
    Table table = lake.createTable("t.x", schema);
    ExecutorService threads = Executors.newFixedThreadPool(WRITERS);
    List<Future<?>> running = new ArrayList<>();
    for (int w = 0; w < WRITERS; w++) {
      int writer = w;
      running.add(threads.submit(() -> write(lake, table, writer)));
    }
    for (Future<?> each : running) {
      each.get();
    }
    threads.shutdown();
    Map<Integer, Long> rows = new TreeMap<>();
    for (Row row : table.scan().rows()) {
      assertThat(rows.put((Integer) row.get("k"), (Long) row.get("v")))
          .as("%s twice", row)
          .isNull();
    }
    assertThat(rows).hasSize(WRITERS * ROUNDS);
    assertThat(rows.values()).containsOnly(1L);
    try (Lake fresh = Lake.open(store)) {
      for (long v = 0; v <= table.now().version(); v++) {
        TableView view = fresh.table("t.x").at(v);
        HistoryRecord record = view.page().record();
        assertThat(view.scan().count()).as("version %d", v).isEqualTo(record.totals().rows());
        assertThat(record.lives().born() - record.lives().gone())
            .as("born less gone in version %d", v)
            .isEqualTo(record.totals().rows());
      }
    }
  }
}
