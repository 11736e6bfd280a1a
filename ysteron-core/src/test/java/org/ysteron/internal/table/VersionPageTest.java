package org.ysteron.internal.table;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.ysteron.RandomRows;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.ExpiredRun;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.option.TableSettings;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;

class VersionPageTest {
  private static final Instant NOON = Instant.parse("2026-03-01T12:00:00Z");
  private final MemoryStore store = new MemoryStore();
  private final PageStore pages = new PageStore(store);

  private static CommitStamp commit(long entry) {
    return new CommitStamp(
        entry,
        10 * entry,
        new UUID(1, entry),
        NOON.plusSeconds(entry),
        "ada",
        "test",
        "note " + entry,
        "");
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
        0,
        Optional.empty());
  }

  private static VersionPage create() {
    return VersionPage.create(
        new UUID(5, 6),
        "t.x",
        TableForm.of(RandomRows.everyType(), Layout.NONE),
        TableSettings.DEFAULTS.with(TableSettings.FILE_BYTES, 5000),
        commit(1));
  }

  private TableListing list(
      Optional<TableListing> before, VersionPage table, TableNumbers numbers, boolean dropped) {
    PageBatch batch = new PageBatch();
    PageRef page = table.write(batch);
    TableListing listing =
        TableListing.next(before, table, numbers, dropped, page, Optional.empty(), pages, batch);
    settle(batch, table.record().commit().entry());
    return listing;
  }

  /** A table of many versions, each with one file of as many rows as its number. */
  private TableListing grow(int versions) {
    VersionPage table = create();
    TableListing listing = list(Optional.empty(), table, TableNumbers.of(table.form()), false);
    for (int v = 1; v <= versions; v++) {
      PageBatch batch = new PageBatch();
      NextVersion next =
          new NextVersion(table.next(commit(v + 1), "append"), listing.numbers(), pages, batch);
      next.add(file(v));
      table = next.build(true);
      PageRef page = table.write(batch);
      listing =
          TableListing.next(
              Optional.of(listing),
              table,
              next.numbers(),
              false,
              page,
              Optional.empty(),
              pages,
              batch);
      settle(batch, v + 1);
    }
    return listing;
  }

  @Test
  void aPageComesBackAsItWasWritten() {
    PageStore fresh = new PageStore(store);
    TableListing listing = grow(3);
    VersionPage table = VersionPage.read(listing.page(), fresh);
    assertThat(table.name()).isEqualTo("t.x");
    assertThat(table.schema()).isEqualTo(RandomRows.everyType());
    assertThat(table.settings().number(TableSettings.FILE_BYTES)).isEqualTo(5000);
    assertThat(table.version()).isEqualTo(3);
    assertThat(listing.numbers().file()).isEqualTo(3);
    assertThat(listing.numbers().serial()).isEqualTo(6);
    assertThat(table.record().nextSerial()).isEqualTo(6);
    assertThat(table.record().lives()).isEqualTo(new HistoryRecord.Lives(6, 0));
    assertThat(table.record().totals()).isEqualTo(new TableVersion.Totals(3, 6, 600));
    assertThat(table.record().commit()).isEqualTo(commit(4));
    assertThat(table.withName("t.y").name()).isEqualTo("t.y");
  }

  @Test
  void everyFileHasItsNumberSerialAndBirth() {
    VersionPage table = VersionPage.read(grow(4).page(), new PageStore(store));
    var cursor = table.fileTree(pages).cursor();
    long serial = 0;
    for (int v = 1; v <= 4; v++) {
      assertThat(cursor.next()).isTrue();
      FileEntry.Numbers numbers = cursor.value().numbers();
      assertThat(numbers.number()).isEqualTo(v - 1L);
      long ordinal = 10 * (v + 1L);
      assertThat(numbers.births())
          .isEqualTo(new FileEntry.Births(ordinal, ordinal, ordinal, ordinal));
      assertThat(numbers.firstSerial()).isEqualTo(serial);
      serial += numbers.rows();
    }
    assertThat(cursor.next()).isFalse();
  }

  @Test
  void theHistoryFindsVersionsByNumberAndByTime() {
    PageStore fresh = new PageStore(store);
    TableHistory history = TableHistory.of(grow(200), fresh);
    for (long v = 0; v <= 200; v++) {
      HistoryRecord byNumber = history.recordOf(v).orElseThrow();
      Instant time = NOON.plusSeconds(v + 1);
      assertThat(byNumber.version()).isEqualTo(v);
      assertThat(history.recordAt(time)).contains(byNumber);
      assertThat(history.recordAt(time.plusMillis(999))).contains(byNumber);
      assertThat(history.lastUpTo(10 * v + 19)).contains(byNumber);
      VersionPage then = history.pageOf(byNumber);
      assertThat(then.version()).isEqualTo(v);
      assertThat(then.record().totals().files()).isEqualTo(v);
    }
    assertThat(history.recordOf(201)).isEmpty();
    assertThat(history.recordOf(-1)).isEmpty();
    assertThat(history.recordAt(NOON)).isEmpty();
    assertThat(history.lastUpTo(9)).isEmpty();
    assertThat(history.records(200, 3))
        .extracting(HistoryRecord::version)
        .containsExactly(200L, 199L, 198L);
  }

  @Test
  void whatIsMissingBetweenVersionsHasExpired() {
    TableListing listing = grow(4);
    TableHead head = TableHead.read(listing.head(), pages);
    PageBatch batch = new PageBatch();
    HistoryRecord third = TableHistory.of(listing, pages).recordOf(3).orElseThrow();
    PageTree.Root thinned =
        head.historyTree(pages)
            .apply(
                List.of(
                    Edit.remove(VersionPage.versionKey(1)),
                    Edit.remove(VersionPage.versionKey(2)),
                    Edit.put(VersionPage.versionKey(3), third.afterGap(NOON.plusSeconds(2)))),
                batch)
            .root();
    ExpiredRun run = new ExpiredRun(1, 2, NOON.plusSeconds(2), NOON.plusSeconds(4), "ada");
    TableHead thin = new TableHead(head.id(), thinned, head.writers(), List.of(run), Map.of());
    PageRef ref = thin.write(batch);
    settle(batch, 9);
    assertThat(TableHead.read(ref, new PageStore(store))).isEqualTo(thin);
    TableHistory history = TableHistory.of(listing.with(listing.page(), ref), new PageStore(store));
    assertThat(history.recordAt(NOON.plusSeconds(1)).orElseThrow().version()).isZero();
    assertThat(history.recordAt(NOON.plusSeconds(4)).orElseThrow().version()).isEqualTo(3);
    assertThat(history.hasExpired(2)).isTrue();
    assertThat(history.hasExpired(5)).isFalse();
    assertThatThrownBy(() -> history.recordAt(NOON.plusSeconds(3)))
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("the next kept version is 3");
  }

  @Test
  void whatALaterProgramSaysIsKept() {
    VersionPage table = create();
    Map<String, Object> others = Map.of("weather", Map.of("wind", 4), "tags", List.of("a"));
    VersionPage said =
        new VersionPage(
            table.id(),
            table.name(),
            table.form(),
            table.schemaPage(),
            table.olderSchemas(),
            table.olderLayouts(),
            TableSettings.stored(Map.of("expire.days", 30, TableSettings.DRIFT, "sideways")),
            table.files(),
            table.replaced(),
            table.record(),
            table.statistics(),
            others);
    PageBatch batch = new PageBatch();
    PageRef ref = said.write(batch);
    settle(batch, 1);
    VersionPage read = VersionPage.read(ref, new PageStore(store));
    assertThat(read.others()).isEqualTo(others);
    assertThat(read.next(commit(2), "append").others()).isEqualTo(others);
    assertThat(read.settings().with(TableSettings.FILE_BYTES, 2000).values())
        .containsEntry("expire.days", 30)
        .containsEntry(TableSettings.DRIFT, "sideways");
    assertThat(read.settings().word(TableSettings.DRIFT)).isEqualTo("strict");
  }

  @Test
  void recordsKeepWhatALaterProgramPutAtTheirEnd() {
    ByteOut longer = new ByteOut();
    WriterRecord.Format.INSTANCE.write(WriterRecord.unknown("w"), longer, null);
    longer.text("more");
    WriterRecord read =
        WriterRecord.Format.INSTANCE.read(new ByteIn(longer.toByteArray()), null).opened();
    ByteOut again = new ByteOut();
    WriterRecord.Format.INSTANCE.write(read, again, null);
    assertThat(read.session()).isEqualTo(1);
    assertThat(again.size()).isEqualTo(longer.size());
    assertThat(new String(again.toByteArray(), java.nio.charset.StandardCharsets.UTF_8))
        .endsWith("more");
  }

  @Test
  void aLakePageFollowsItsTables() {
    TableListing x = grow(1);
    PageBatch batch = new PageBatch();
    LakePage lake = LakePage.create(new UUID(9, 9)).withTables(List.of(x), pages, batch);
    assertThat(lake.table("t.x", pages)).contains(x);
    assertThat(lake.tables(false, pages)).hasSize(1);
    VersionPage table = VersionPage.read(x.page(), pages).next(commit(3), "rename");
    TableListing z = list(Optional.of(x), table.withName("t.z"), x.numbers(), false);
    LakePage renamed = lake.withTables(List.of(z), pages, batch);
    assertThat(renamed.table("t.x", pages)).isEmpty();
    assertThat(renamed.table("t.z", pages)).contains(z);
    TableListing gone =
        list(Optional.of(z), table.withName("t.z").next(commit(4), "drop"), z.numbers(), true);
    LakePage dropped = renamed.withTables(List.of(gone), pages, batch);
    assertThat(dropped.table("t.z", pages)).isEmpty();
    assertThat(dropped.tables(true, pages)).extracting(TableListing::name).containsExactly("t.z");
    assertThat(dropped.table(table.id(), pages).orElseThrow().dropped()).isTrue();
    LakePage back = dropped.withTables(List.of(z), pages, batch);
    assertThat(back.tables(false, pages)).extracting(TableListing::name).containsExactly("t.z");
    assertThat(back.tables(true, pages)).isEmpty();
    // The past as the newest page tells it.
    assertThat(lake.tableThen("t.x", dropped, pages).orElseThrow().version()).isEqualTo(1);
    assertThat(lake.tablesThen(dropped, pages))
        .extracting(TableListing::name)
        .containsExactly("t.x");
    assertThat(renamed.droppedThen(30, dropped, pages)).isEmpty();
    assertThat(dropped.droppedThen(40, dropped, pages))
        .extracting(TableListing::version)
        .containsExactly(3L);
  }

  @Test
  void aLakePageRemembersItsEntries() {
    LakePage lake = LakePage.create(new UUID(9, 9));
    PageBatch batch = new PageBatch();
    PageRef ref = lake.write(batch);
    settle(batch, 0);
    for (int n = 0; n < 120; n++) {
      PageBatch next = new PageBatch();
      EntryRecord entry =
          EntryRecord.of(List.of(commit(n)), "%064x".formatted(n), lake.remembered(ref), false);
      lake = lake.withEntry(entry, pages, next);
      settle(next, n + 1);
    }
    for (int n = 0; n < 120; n++) {
      EntryRecord record = lake.entry(n, pages).orElseThrow();
      assertThat(record.last()).isEqualTo(commit(n));
      assertThat(record.hash()).isEqualTo("%064x".formatted(n));
      assertThat(lake.entryAt(NOON.plusSeconds(n).plusNanos(5000), pages)).contains(record);
    }
    assertThat(lake.entryAt(NOON.minusNanos(1000), pages)).isEmpty();
    assertThat(lake.entry(120, pages)).isEmpty();
  }

  @Test
  void aPageThatIsNoRecordIsDamage() {
    PageBatch batch = new PageBatch();
    PageRef list = batch.add("[1]".getBytes(java.nio.charset.StandardCharsets.UTF_8));
    PageRef lacking =
        batch.add("{\"page\":\"lake\"}".getBytes(java.nio.charset.StandardCharsets.UTF_8));
    assertThatThrownBy(() -> LakePage.read(list, pages)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> LakePage.read(lacking, pages))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("its member \"lake\"");
    assertThatThrownBy(() -> VersionPage.read(lacking, new PageStore(store)))
        .isInstanceOf(DamagedException.class);
  }
}
