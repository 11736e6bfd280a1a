package org.ysteron.table;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.ysteron.RandomRows;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.store.MemoryStore;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;

class TablePageTest {
  private static final Instant NOON = Instant.parse("2026-03-01T12:00:00Z");
  private final MemoryStore store = new MemoryStore();
  private final PageStore pages = new PageStore(store);

  private static CommitStamp commit(long entry) {
    return new CommitStamp(
        entry, new UUID(1, entry), NOON.plusSeconds(entry), "ada", "test", "note " + entry, "");
  }

  private void settle(PageBatch batch, long entry) {
    batch.settleInEntry(entry, 0);
    store.createIfAbsent(batch.home().objectName(), batch.toByteArray());
  }

  private static StagedFile file(long rows) {
    return new StagedFile(
        UUID.randomUUID(),
        0,
        100 * rows,
        rows,
        StagedFile.Form.of(0, 0, 3),
        50,
        new byte[32],
        new byte[32],
        Map.of(),
        java.util.Optional.empty());
  }

  /** A table of many versions, each with one file of as many rows as its number. */
  private PageRef grow(int versions) {
    TablePage table =
        TablePage.create(
            new UUID(5, 6),
            "t.x",
            TableForm.of(RandomRows.everyType(), Layout.NONE),
            TableProperties.DEFAULTS.with(TableProperties.FILE_BYTES, 5000),
            commit(1));
    PageBatch batch = new PageBatch();
    PageRef ref = table.write(batch);
    settle(batch, 1);
    for (int v = 1; v <= versions; v++) {
      batch = new PageBatch();
      table =
          table
              .next(ref, pages, batch, commit(v + 1), "append")
              .withFiles(List.of(file(v)), pages, batch);
      ref = table.write(batch);
      settle(batch, v + 1);
    }
    return ref;
  }

  @Test
  void aPageComesBackAsItWasWritten() {
    PageStore fresh = new PageStore(store);
    TablePage table = TablePage.read(grow(3), fresh);
    assertThat(table.name()).isEqualTo("t.x");
    assertThat(table.schema()).isEqualTo(RandomRows.everyType());
    assertThat(table.properties().get(TableProperties.FILE_BYTES)).isEqualTo(5000);
    assertThat(table.version()).isEqualTo(3);
    assertThat(table.nextFileNumber()).isEqualTo(3);
    assertThat(table.nextSerial()).isEqualTo(6);
    assertThat(table.record().totals()).isEqualTo(new HistoryRecord.Totals(3, 6, 600));
    assertThat(table.record().commit()).isEqualTo(commit(4));
    assertThat(table.withName("t.y").name()).isEqualTo("t.y");
  }

  @Test
  void everyFileHasItsNumberSerialAndBirth() {
    TablePage table = TablePage.read(grow(4), new PageStore(store));
    var cursor = table.fileTree(pages).cursor();
    long serial = 0;
    for (int v = 1; v <= 4; v++) {
      assertThat(cursor.next()).isTrue();
      FileEntry.Numbers numbers = cursor.value().numbers();
      assertThat(numbers.number()).isEqualTo(v - 1L);
      assertThat(numbers.birth()).isEqualTo(v);
      assertThat(numbers.firstSerial()).isEqualTo(serial);
      serial += numbers.rows();
    }
    assertThat(cursor.next()).isFalse();
  }

  @Test
  void theHistoryFindsVersionsByNumberAndByTime() {
    PageStore fresh = new PageStore(store);
    TablePage table = TablePage.read(grow(200), fresh);
    for (long v = 0; v <= 200; v++) {
      HistoryRecord byNumber = table.recordOf(v, fresh).orElseThrow();
      long micros = Values.micros(NOON.plusSeconds(v + 1));
      assertThat(byNumber.version()).isEqualTo(v);
      assertThat(table.recordAt(micros, fresh)).contains(byNumber);
      assertThat(table.recordAt(micros + 999_999, fresh)).contains(byNumber);
      TablePage then = byNumber.page().map(ref -> TablePage.read(ref, fresh)).orElse(table);
      assertThat(then.version()).isEqualTo(v);
      assertThat(then.record().totals().files()).isEqualTo(v);
    }
    assertThat(table.recordOf(201, fresh)).isEmpty();
    assertThat(table.recordOf(-1, fresh)).isEmpty();
    assertThat(table.recordAt(Values.micros(NOON), fresh)).isEqualTo(Optional.empty());
    assertThat(table.records(3, fresh))
        .extracting(HistoryRecord::version)
        .containsExactly(200L, 199L, 198L);
  }

  @Test
  void aLakePageFollowsItsTables() {
    PageRef ref = grow(1);
    TablePage table = TablePage.read(ref, pages);
    PageBatch batch = new PageBatch();
    LakePage lake = LakePage.create(new UUID(9, 9)).withTable(table, false, ref, pages, batch);
    assertThat(lake.table("t.x", pages)).isPresent();
    assertThat(lake.tables(false, pages)).hasSize(1);
    LakePage renamed = lake.withTable(table.withName("t.z"), false, ref, pages, batch);
    assertThat(renamed.table("t.x", pages)).isEmpty();
    assertThat(renamed.table("t.z", pages).orElseThrow().id()).isEqualTo(table.id());
    LakePage dropped = renamed.withTable(table.withName("t.z"), true, ref, pages, batch);
    assertThat(dropped.table("t.z", pages)).isEmpty();
    assertThat(dropped.tables(true, pages)).extracting(TableListing::name).containsExactly("t.z");
    assertThat(dropped.table(table.id(), pages).orElseThrow().dropped()).isTrue();
    LakePage back = dropped.withTable(table, false, ref, pages, batch);
    assertThat(back.tables(false, pages)).extracting(TableListing::name).containsExactly("t.x");
    assertThat(back.tables(true, pages)).isEmpty();
    assertThat(lake.table("t.x", pages)).isPresent();
  }

  @Test
  void aLakePageRemembersItsEntries() {
    LakePage lake = LakePage.create(new UUID(9, 9));
    PageBatch batch = new PageBatch();
    PageRef ref = lake.write(batch);
    settle(batch, 0);
    for (int n = 0; n < 120; n++) {
      PageBatch next = new PageBatch();
      lake = lake.withEntry(new EntryRecord(commit(n), "%064x".formatted(n), ref), pages, next);
      settle(next, n + 1);
    }
    for (int n = 0; n < 120; n++) {
      EntryRecord record = lake.entry(n, pages).orElseThrow();
      assertThat(record.commit()).isEqualTo(commit(n));
      assertThat(record.hash()).isEqualTo("%064x".formatted(n));
      assertThat(lake.entryAt(Values.micros(NOON.plusSeconds(n)) + 5, pages)).contains(record);
    }
    assertThat(lake.entryAt(Values.micros(NOON) - 1, pages)).isEmpty();
    assertThat(lake.entry(120, pages)).isEmpty();
  }

  @Test
  void aPageThatIsNoRecordIsDamage() {
    PageBatch batch = new PageBatch();
    PageRef list = batch.add("[1]".getBytes(java.nio.charset.StandardCharsets.UTF_8));
    PageRef lacking = batch.add("{\"page\":1}".getBytes(java.nio.charset.StandardCharsets.UTF_8));
    assertThatThrownBy(() -> LakePage.read(list, pages)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> LakePage.read(lacking, pages))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("its member \"lake\"");
    assertThatThrownBy(() -> TablePage.read(lacking, new PageStore(store)))
        .isInstanceOf(DamagedException.class);
  }
}
