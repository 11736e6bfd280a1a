package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
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
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.internal.upkeep.SmallExpiries;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.option.Retention.Step;
import org.ysteron.option.TableSettings;
import org.ysteron.report.TableInfo;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;

@Timeout(120)
class ExpiryTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()));
  private static final Instant START = Instant.parse("2026-01-01T00:00:00Z");

  private final SetClock clock = new SetClock();
  private final MemoryStore store = new MemoryStore();
  private final Lake opened = Lake.create(store, LakeOptions.DEFAULTS.clock(clock).threads(2));
  private final LakeHandle lake = opened.by("ada", "test");

  /** Says what it is told. */
  static final class SetClock extends Clock {
    private Instant now = START;

    void advance(Duration by) {
      now = now.plus(by);
    }

    @Override
    public Instant instant() {
      return now;
    }

    @Override
    public ZoneId getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(ZoneId zone) {
      return this;
    }
  }

  @AfterEach
  void close() {
    opened.close();
  }

  private Table table() {
    return lake.createTable("t.x", SCHEMA);
  }

  private static void append(Table table, int... keys) {
    try (Append append = table.append()) {
      for (int key : keys) {
        append.add(key, "row " + key);
      }
      append.commit();
    }
  }

  private static List<Integer> keys(TableView view) {
    List<Integer> keys = new ArrayList<>();
    try (Results<Row> rows = view.scan().rows()) {
      rows.forEach(row -> keys.add(row.getInt("k")));
    }
    keys.sort(null);
    return keys;
  }

  private static List<Long> versions(Table table) {
    return table.history(100).stream().map(TableVersion::version).sorted().toList();
  }

  private static List<Integer> upTo(int last) {
    return IntStream.rangeClosed(1, last).boxed().toList();
  }

  @Test
  void theNewestFewStayAndWhatIsGoneSaysWhenAndByWhom() {
    Table table = table();
    for (int i = 1; i <= 5; i++) {
      clock.advance(Duration.ofHours(1));
      append(table, i);
    }
    ExpiryReport would = table.expire().keeping(Retention.EVERYTHING.andNewest(2)).dryRun();
    assertThat(versions(table)).hasSize(6);
    ExpiryReport did = table.expire().keeping(Retention.EVERYTHING.andNewest(2)).run();
    assertThat(did.tables()).isEqualTo(would.tables());
    assertThat(did.tables().get(0).gaps())
        .containsExactly(
            new ExpiryReport.Gap(0, 3, START.plusNanos(1000), START.plus(Duration.ofHours(4))));
    assertThat(versions(table)).containsExactly(4L, 5L);
    assertThat(keys(table.at(4))).isEqualTo(upTo(4));
    assertThat(keys(table.now())).isEqualTo(upTo(5));
    assertThatThrownBy(() -> table.at(2))
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("Version 2 of table t.x expired on 2026-01-01T05:00:00")
        .hasMessageContaining("by ada")
        .hasMessageContaining("The oldest kept version is 4");
    assertThatThrownBy(() -> table.at(START.plus(Duration.ofHours(2))))
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("the next kept version is 4");
    assertThatThrownBy(() -> table.at(START.minusSeconds(1))).isInstanceOf(NotFoundException.class);
    assertThat(did.freed()).isZero(); // appends leave all files to the newest version
  }

  @ParameterizedTest
  @ValueSource(ints = {1, 2, 3, 100})
  void manyVersionsGoInSeveralCommitsAndTheReportIsTheSame(int inOneCommit) {
    Table table = table();
    for (int i = 1; i <= 12; i++) {
      clock.advance(Duration.ofHours(1));
      append(table, i);
      table.delete().where(column("k").lessThan(i)).run(); // its files are nobody's then
      if (i == 5) {
        table.bookmark("kept", table.now().version());
      }
    }
    Retention rules = Retention.EVERYTHING.andNewest(2);
    ExpiryReport would = lake.expire().keeping(rules).dryRun();
    ExpiryReport did;
    try (SmallExpiries few = new SmallExpiries(inOneCommit)) {
      assertThat(few).isNotNull();
      did = lake.expire().keeping(rules).run();
    }
    assertThat(did.tables()).isEqualTo(would.tables());
    assertThat(did.commits()).hasSize((int) ((did.versions() + inOneCommit - 1) / inOneCommit));
    assertThat(did.tables().get(0).gaps()).hasSize(2);
    assertThat(did.freed()).isPositive();
    assertThat(versions(table)).hasSize(3);
    assertThat(lake.check().run().findings()).isEmpty();
  }

  @Test
  void aHistoryOfManyVersionsIsReadInParts() {
    Table table = table();
    for (int i = 1; i <= 1100; i++) {
      append(table, i);
      if (i % 500 == 7) {
        table.bookmark("kept-" + i, i);
      }
    }
    Retention rules = Retention.EVERYTHING.andNewest(3);
    ExpiryReport would = table.expire().keeping(rules).dryRun();
    assertThat(table.expire().keeping(rules).run().tables()).isEqualTo(would.tables());
    assertThat(versions(table)).containsExactly(7L, 507L, 1007L, 1098L, 1099L, 1100L);
    for (long version : versions(table)) {
      assertThat(table.at(version).scan().count()).isEqualTo(version);
    }
    assertThat(lake.check().run().findings()).isEmpty();
  }

  @Test
  void thinningKeepsWhatWasCurrentAtTheStepsOfTheCalendar() {
    Table table = table();
    for (int i = 1; i <= 40; i++) {
      clock.advance(Duration.ofHours(6));
      append(table, i);
    }
    // Now is just after 2026-01-11T00:00Z.
    Retention rules =
        Retention.EVERYTHING.andFor(Duration.ofHours(24)).andOneEach(Step.DAY, Period.ofDays(5));
    table.expire().keeping(rules).run();
    // Version i serves from 6i hours on; at midnight of day d version 4d was made.
    assertThat(versions(table)).containsExactly(24L, 28L, 32L, 36L, 37L, 38L, 39L, 40L);
    Instant midnight = Instant.parse("2026-01-07T00:00:00Z");
    assertThat(table.at(midnight).version()).isEqualTo(24);
    assertThat(table.at(midnight.plus(Duration.ofHours(5))).version()).isEqualTo(24);
    assertThatThrownBy(() -> table.at(midnight.plus(Duration.ofHours(6))))
        .isInstanceOf(ExpiredException.class);
    assertThatThrownBy(() -> table.at(midnight.plus(Duration.ofHours(23))))
        .isInstanceOf(ExpiredException.class);
    assertThat(table.expire().keeping(rules).run().tables()).isEmpty();
  }

  @Test
  void filesThatOnlyGoneVersionsHadAreFreeAndSwept() {
    Table table = table();
    append(table, 1, 2, 3);
    append(table, 4);
    table.delete().where(column("k").equalTo(2)).style(ChangeStyle.REWRITE).run();
    assertThat(table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run().freed())
        .isEqualTo(1);
    int before = data();
    SweepReport swept = lake.sweep().now().run();
    assertThat(swept.deleted().get(SweepReport.Kind.FREED).objects()).isEqualTo(1);
    assertThat(data()).isEqualTo(before - 1);
    assertThat(keys(table.now())).containsExactly(1, 3, 4);
    assertThat(lake.sweep().now().run().all().objects()).isZero();
  }

  private int data() {
    int count = 0;
    for (var directory : store.list("data", "", 100)) {
      count += store.list("data/" + directory.segment(), "", 10_000).size();
    }
    return count;
  }

  @Test
  void aFileThatARewindBroughtBackIsNotFree() {
    Table table = table();
    append(table, 1, 2, 3);
    table.delete().where(column("k").equalTo(2)).style(ChangeStyle.REWRITE).run();
    append(table, 4);
    table.rewind().to(1L).run();
    ExpiryReport report = table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(report.freed()).isEqualTo(2); // what the delete wrote, and what was appended then
    lake.sweep().now().run();
    assertThat(keys(table.now())).containsExactly(1, 2, 3);
  }

  @Test
  void whatABookmarkNamesStays() {
    Table table = table();
    for (int i = 1; i <= 4; i++) {
      clock.advance(Duration.ofHours(1));
      append(table, i);
    }
    table.bookmark("before-the-fix", 2);
    lake.bookmark("noon", START.plus(Duration.ofHours(3)));
    clock.advance(Duration.ofHours(1));
    append(table, 5);
    ExpiryReport report = lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(report.tables().get(0).held().keySet()).containsExactly(2L, 3L);
    assertThat(versions(table)).containsExactly(2L, 3L, 5L);
    lake.sweep().now().withEntries().run();
    assertThat(keys(table.atBookmark("before-the-fix"))).isEqualTo(upTo(2));
    assertThat(keys(table.atBookmark("noon"))).isEqualTo(upTo(3));
    assertThat(keys(lake.atBookmark("noon").table("t.x"))).isEqualTo(upTo(3));
    table.moveBookmark("before-the-fix", 5);
    lake.dropBookmark("noon");
    assertThat(lake.bookmarks()).hasSize(1);
    lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(versions(table)).containsExactly(5L);
  }

  @Test
  void bookmarksThatCannotBeAreRefused() {
    Table table = table();
    append(table, 1);
    append(table, 2);
    table.bookmark("one", 1);
    assertThatThrownBy(() -> table.bookmark("one"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Bookmark one already exists");
    assertThatThrownBy(() -> table.bookmark("7"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("starts with a letter");
    assertThatThrownBy(() -> table.moveBookmark("none", 1)).isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> lake.dropBookmark("on"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("one");
    assertThatThrownBy(() -> table.bookmark("nine", 9)).isInstanceOf(NotFoundException.class);
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThatThrownBy(() -> table.bookmark("zero", 0)).isInstanceOf(ExpiredException.class);
    assertThat(table.atBookmark("one").version()).isEqualTo(1);
    assertThatThrownBy(() -> lake.atBookmark("one")).isInstanceOf(NotFoundException.class);
  }

  @Test
  void rulesThatWouldLeaveNothingAreRefused() {
    assertThatThrownBy(() -> Retention.EVERYTHING.andNewest(0))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("At least the newest version is kept");
    assertThatThrownBy(() -> Retention.EVERYTHING.andFor(Duration.ZERO))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> Retention.EVERYTHING.andFor(Duration.ofDays(-1)))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> TableSettings.DEFAULTS.with(TableSettings.KEEP_FOR, "P0D"))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(
            () -> TableSettings.DEFAULTS.with(TableSettings.KEEP_THINNED, "fortnight P1Y"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("calendar steps");
  }

  @Test
  void aTablesOwnRulesGoBeforeTheLakes() {
    Table table =
        lake.createTable(
            "t.own", SCHEMA, TableSettings.DEFAULTS.keeping(Retention.EVERYTHING.andNewest(3)));
    Table other = table();
    for (int i = 1; i <= 5; i++) {
      append(table, i);
      append(other, i);
    }
    assertThat(lake.expire().run().tables()).hasSize(1);
    assertThat(versions(table)).containsExactly(3L, 4L, 5L);
    assertThat(versions(other)).hasSize(6);
    lake.set(TableSettings.KEEP_NEWEST, 2);
    lake.expire().run();
    assertThat(versions(table)).containsExactly(3L, 4L, 5L);
    assertThat(versions(other)).containsExactly(4L, 5L);
  }

  @Test
  void aDroppedTableGoesAsAWholeWhenNoRuleOfTimeKeepsIt() {
    Table table = table();
    append(table, 1);
    lake.dropTable("t.x");
    Retention day = Retention.EVERYTHING.andFor(Duration.ofDays(1));
    clock.advance(Duration.ofHours(23));
    lake.expire().keeping(day).run();
    assertThat(lake.droppedTables()).hasSize(1);
    clock.advance(Duration.ofHours(2));
    ExpiryReport report = lake.expire().keeping(day).run();
    assertThat(report.tables().get(0).isWhole()).isTrue();
    assertThat(lake.droppedTables()).isEmpty();
    assertThatThrownBy(() -> lake.bringBackTable("t.x")).isInstanceOf(NotFoundException.class);
    lake.sweep().now().run();
    assertThat(data()).isZero();
    assertThat(store.list("data/" + table.id(), "", 10)).isEmpty();
  }

  @Test
  void entriesBelowTheFloorGoAndEverythingThatIsKeptCanBeRead() {
    Table table = table();
    for (int i = 1; i <= 30; i++) {
      clock.advance(Duration.ofHours(1));
      append(table, i);
    }
    table.expire().keeping(Retention.EVERYTHING.andNewest(10)).run();
    SweepReport swept = lake.sweep().now().withEntries().run();
    assertThat(swept.deleted().get(SweepReport.Kind.ENTRY).objects()).isGreaterThan(25);
    for (LakeHandle each : List.of(lake, Lake.open(store))) {
      Table there = each.table("t.x");
      for (long version = 21; version <= 30; version++) {
        assertThat(keys(there.at(version))).isEqualTo(upTo((int) version));
        Instant then = START.plus(Duration.ofHours(version));
        assertThat(keys(each.at(then).table("t.x"))).isEqualTo(upTo((int) version));
      }
      LongStream.range(0, 21)
          .forEach(
              gone ->
                  assertThatThrownBy(() -> each.at(START.plus(Duration.ofHours(gone))).table("t.x"))
                      .isInstanceOf(ExpiredException.class));
    }
    append(table, 31);
    lake.sweep().now().withEntries().run();
    assertThat(keys(table.at(25))).isEqualTo(upTo(25));
    assertThat(store.list("ledger/000/000", "", 1000)).hasSizeLessThan(8);
    assertThat(store.list("floor", "", 10)).hasSize(1);
  }

  @Test
  void theLakeOfThenSaysWhichTablesHaveExpired() {
    Table table = table();
    append(table, 1);
    lake.createTable("t.y", SCHEMA);
    Instant then = lake.now().commit().time();
    append(table, 2);
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(lake.at(then).tables()).extracting(TableInfo::name).containsExactly("t.y");
    assertThat(lake.at(then).expiredTables()).containsExactly("t.x");
    assertThat(lake.now().expiredTables()).isEmpty();
    assertThatThrownBy(() -> lake.at(then).table("t.x")).isInstanceOf(ExpiredException.class);
  }

  @ParameterizedTest
  @ValueSource(booleans = {false, true})
  @SuppressWarnings("try") // the limits are there while they are open
  void whoStartedAtTheHorizonReadsWhatHeStartedFromAndCommits(boolean hasObjectsOfPages) {
    try (SmallEntries entries = new SmallEntries(hasObjectsOfPages ? 1 : 0);
        SmallPages pages = new SmallPages(400, 1);
        Lake others = Lake.open(store, LakeOptions.DEFAULTS.clock(clock).threads(1))) {
      Table table = table();
      Table other = lake.createTable("t.y", SCHEMA);
      clock.advance(Duration.ofHours(1));
      for (int k = 1; k <= 20; k++) {
        append(table, k);
      }
      clock.advance(Duration.ofHours(1));
      append(other, 1);
      long start = lake.now().commit().entry();
      try (Transaction work = others.begin(Isolation.SNAPSHOT)) {
        clock.advance(Duration.ofHours(1));
        table.delete().where(column("k").lessThan(20)).style(ChangeStyle.REWRITE).run();
        append(table, 21);
        assertThat(table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run().freed())
            .isPositive();
        clock.advance(Duration.ofHours(1));
        for (int i = 0; i < 3; i++) {
          SweepReport swept = lake.sweep().after(Duration.ofMinutes(90)).full().run();
          assertThat(swept.horizon()).isEqualTo(start);
          assertThat(swept.waiting().objects()).isPositive();
        }
        List<Integer> read = new ArrayList<>();
        work.table("t.x").scan().rows().forEach(row -> read.add(row.getInt("k")));
        assertThat(read).containsExactlyInAnyOrderElementsOf(upTo(20));
        work.table("t.y").add(2, "committed");
        work.commit();
      }
      clock.advance(Duration.ofHours(2));
      lake.sweep().after(Duration.ofMinutes(90)).run();
      lake.sweep().now().run();
      assertThat(lake.sweep().dryRun().waiting().objects()).isZero();
      assertThat(keys(table.now())).containsExactly(20, 21);
      assertThat(keys(other.now())).containsExactly(1, 2);
    }
  }

  @Test
  void whoStartedBeforeTheHorizonCannotCommit() {
    Table table = table();
    append(table, 1);
    try (Append late = table.append()) {
      late.add(2, "late");
      append(table, 3);
      lake.sweep().now().run();
      assertThatThrownBy(late::commit).hasMessageContaining("refuses work from before entry");
    }
    append(table, 4);
    assertThat(keys(table.now())).containsExactly(1, 3, 4);
  }
}
