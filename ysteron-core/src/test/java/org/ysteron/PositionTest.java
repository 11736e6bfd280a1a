package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.report.Position;
import org.ysteron.store.MemoryStore;

/**
 * Readers with a position: each change is processed once, by the commit that moves the position.
 */
class PositionTest {
  private static final Schema SOURCE = Schema.of(Field.of("k", Types.INTEGER));
  private static final Schema TARGET =
      Schema.of(Field.of("inserted", Types.BIGINT), Field.of("deleted", Types.BIGINT));
  private static final Duration LIMIT = Duration.ofDays(8);

  private final ExpiryTest.SetClock clock = new ExpiryTest.SetClock();
  private final MemoryStore store = new MemoryStore();
  private Lake lake;
  private Table source;
  private Table target;

  @BeforeEach
  void makeALake() {
    lake = Lake.create(store, LakeOptions.DEFAULTS.clock(clock));
    source = lake.createTable("t.source", SOURCE);
    target = lake.createTable("t.target", TARGET);
    insert(1, 2, 3);
    lake.setPosition("sum", Map.of("t.source", 0L), LIMIT);
  }

  @AfterEach
  void close() {
    try (Lake used = lake) {
      assertThat(used.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }

  private void insert(int... keys) {
    try (Append append = lake.table("t.source").append()) {
      for (int key : keys) {
        append.add(key);
      }
      append.commit();
    }
  }

  private static void sum(Transaction work) {
    ReaderPosition position = work.position("sum");
    ChangeCounts counts = position.changes("t.source").countExactly();
    work.table("t.target").add(counts.inserted(), counts.deleted());
    position.move();
  }

  private void sum() {
    lake.runInTransaction(Isolation.SNAPSHOT, PositionTest::sum);
  }

  private List<String> sums() {
    List<String> sums = new ArrayList<>();
    target.scan().rows().forEach(row -> sums.add(row.get(0) + "-" + row.get(1)));
    return sums;
  }

  private Position.OfTable read() {
    return lake.position("sum").tables().get(0);
  }

  @Test
  void eachChangeIsProcessedOnce() {
    sum();
    insert(4);
    source.delete().where(column("k").equalTo(1)).run();
    sum();
    sum();
    assertThat(sums()).containsExactlyInAnyOrder("3-0", "1-1", "0-0");
    assertThat(lake.position("sum").moves()).isEqualTo(2); // the third time nothing had come
    assertThat(read().version()).isEqualTo(3);
  }

  @Test
  void workThatFailsMovesNothing() {
    assertThatThrownBy(
            () ->
                lake.runInTransaction(
                    Isolation.SNAPSHOT,
                    work -> {
                      sum(work);
                      throw new IllegalStateException("no");
                    }))
        .isInstanceOf(IllegalStateException.class);
    assertThat(sums()).isEmpty();
    assertThat(read().version()).isZero();
    sum();
    assertThat(sums()).containsExactly("3-0");
  }

  @Test
  void ofTwoAtOnceOneRunsAgainFromTheNewPosition() {
    AtomicInteger runs = new AtomicInteger();
    lake.runInTransaction(
        Isolation.SERIALIZABLE,
        work -> {
          if (runs.incrementAndGet() == 1) {
            sum();
            insert(4, 5);
          }
          sum(work);
        });
    assertThat(runs).hasValue(2);
    assertThat(sums()).containsExactlyInAnyOrder("3-0", "2-0");
  }

  @Test
  void inATransactionHeldByHandThatConflictIsFinal() {
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      sum(work);
      sum();
      assertThat(work.conflict()).isPresent();
      assertThatThrownBy(work::commit)
          .isInstanceOfSatisfying(
              ConflictException.class,
              e -> assertThat(e.kind()).isEqualTo(ConflictException.Kind.POSITION_MOVED))
          .hasMessageContaining("Position sum was moved by another commit");
    }
    assertThat(sums()).containsExactly("3-0");
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      sum(work);
      lake.dropPosition("sum");
      assertThatThrownBy(work::commit).hasMessageContaining("was dropped");
    }
    assertThat(sums()).containsExactly("3-0");
  }

  @Test
  void aBusySourceIsNoConflict() {
    try (Transaction work = lake.begin(Isolation.SERIALIZABLE)) {
      sum(work);
      insert(7);
      source.delete().where(column("k").equalTo(2)).run();
      source.compact().full().run();
      work.commit();
    }
    sum();
    assertThat(sums()).containsExactlyInAnyOrder("3-0", "1-1");
  }

  @Test
  void anEmptyIntervalMovesItAfterAQuarterOfItsLimit() {
    sum();
    long entry = lake.now().commit().entry();
    lake.runInTransaction(Isolation.SNAPSHOT, work -> work.position("sum").move());
    assertThat(lake.now().commit().entry()).isEqualTo(entry);
    Instant moved = lake.position("sum").moved();
    clock.advance(Duration.ofDays(2).plusSeconds(1));
    lake.runInTransaction(Isolation.SNAPSHOT, work -> work.position("sum").move());
    assertThat(lake.position("sum").moved()).isAfterOrEqualTo(moved.plus(Duration.ofDays(2)));
    assertThat(lake.position("sum").ends()).isEqualTo(lake.position("sum").moved().plus(LIMIT));
  }

  @Test
  void whatItHasReadIsHeldUntilItsLimit() {
    sum();
    insert(4);
    insert(5);
    clock.advance(LIMIT.minusHours(1));
    ExpiryReport report = source.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    assertThat(report.tables().get(0).held()).containsEntry(1L, List.of("position sum"));
    lake.sweep().now().withEntries().run();
    sum();
    assertThat(sums()).containsExactlyInAnyOrder("3-0", "2-0");
    insert(6);
    insert(7);
    clock.advance(LIMIT.plusHours(1));
    source.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    lake.sweep().now().withEntries().run();
    assertThat(read().isMissed()).isTrue();
    assertThatThrownBy(this::sum)
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("Position sum has missed changes of table t.source")
        .hasMessageContaining("its limit of P8D ended at")
        .hasMessageContaining("versions 4 to 5 are unread");
    assertThatThrownBy(
            () -> lake.runInTransaction(Isolation.SNAPSHOT, work -> work.position("sum").move()))
        .isInstanceOf(ExpiredException.class);
    lake.setPosition("sum", "t.source");
    assertThat(read().isMissed()).isFalse();
    insert(8);
    sum();
    assertThat(sums()).hasSize(3).contains("1-0");
  }

  @Test
  void aRenamedTableIsTheSameAndADroppedOneIsToldOnce() {
    sum();
    lake.renameTable("t.source", "t.renamed");
    try (Append append = lake.table("t.renamed").append()) {
      append.add(9).commit();
    }
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work -> {
          ReaderPosition position = work.position("sum");
          assertThat(position.tables()).containsExactly("t.renamed");
          assertThat(position.changes("t.renamed").count().inserted()).isEqualTo(1);
          assertThatThrownBy(() -> position.changes("t.source"))
              .isInstanceOf(NotFoundException.class)
              .hasMessageContaining("t.renamed");
          position.move();
        });
    try (Append append = lake.table("t.renamed").append()) {
      append.add(10).commit();
    }
    lake.dropTable("t.renamed");
    lake.createTable("t.renamed", SOURCE);
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work -> {
          ReaderPosition position = work.position("sum");
          assertThat(position.droppedTables()).containsExactly("t.renamed");
          assertThat(position.changes("t.renamed").count().inserted()).isEqualTo(1);
          position.move();
        });
    assertThat(lake.position("sum").tables()).isEmpty();
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work -> {
          assertThat(work.position("sum").droppedTables()).isEmpty();
          assertThat(work.position("sum").tables()).isEmpty();
        });
    lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
  }

  @Test
  void aReaderCanBeginWithAScan() {
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work -> {
          long rows = work.table("t.source").scan().count();
          work.table("t.target").add(rows, 0L);
          work.setPosition("other", LIMIT, "t.source");
        });
    insert(4);
    lake.runInTransaction(
        Isolation.SNAPSHOT,
        work ->
            assertThat(work.position("other").changes("t.source").count().inserted()).isEqualTo(1));
    assertThat(lake.positions()).extracting(Position::name).containsExactly("other", "sum");
  }

  @Test
  void whatIsWrongIsAnswered() {
    sum();
    insert(4);
    assertThatThrownBy(() -> lake.setPosition("sum", Map.of("t.source", 0L), LIMIT))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("cannot go back to version 0");
    assertThatThrownBy(() -> lake.setPosition("sum", Map.of("t.source", 99L), LIMIT))
        .isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> lake.setPosition("sum", "t.sauce"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("t.source");
    assertThatThrownBy(() -> lake.setPosition("none"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("names no table");
    assertThatThrownBy(() -> lake.setPosition("a b", "t.source"))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("not a position name");
    assertThatThrownBy(() -> lake.setPosition("x", Map.of("t.source", 1L), Duration.ZERO))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("limit");
    assertThatThrownBy(() -> lake.setPosition("x", Map.of("t.source", 1L), Duration.ofDays(36_501)))
        .isInstanceOf(InvalidInputException.class);
    assertThatThrownBy(() -> lake.setPosition("x", Map.of("t.source", 1L), Duration.ofNanos(999)))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("one microsecond or more");
    lake.setPosition("short", Map.of("t.source", 1L), Duration.ofNanos(1001));
    lake.setPosition("long", Map.of("t.source", 1L), Duration.ofDays(36_500));
    assertThat(lake.position("short").limit()).isEqualTo(Duration.ofNanos(1000));
    lake.dropPosition("short");
    lake.dropPosition("long");
    assertThatThrownBy(() -> lake.position("som"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("sum");
    lake.bookmark("mark");
    assertThatThrownBy(() -> lake.setPosition("mark", "t.source"))
        .isInstanceOf(AlreadyExistsException.class)
        .hasMessageContaining("bookmark");
    assertThatThrownBy(() -> lake.position("mark"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("bookmark");
    assertThatThrownBy(() -> lake.bookmark("sum"))
        .isInstanceOf(AlreadyExistsException.class)
        .hasMessageContaining("position");
    try (Transaction work = lake.begin()) {
      ReaderPosition position = work.position("sum");
      position.move();
      assertThatThrownBy(position::move)
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("position sum before");
      assertThatThrownBy(() -> work.setPosition("sum", LIMIT, "t.source"))
          .isInstanceOf(InvalidInputException.class);
      work.commit();
      assertThatThrownBy(position::isEmpty).isInstanceOf(EndedException.class);
    }
    assertThat(read().version()).isEqualTo(2);
  }

  @Test
  void aRewindIsAChangeLikeAnother() {
    insert(4);
    sum();
    source.rewind().to(1).run();
    sum();
    assertThat(sums()).containsExactlyInAnyOrder("4-0", "0-1");
  }

  @Test
  void anErasureNamesIt() {
    sum();
    assertThatThrownBy(() -> source.erase(column("k").equalTo(1)).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("position sum");
    assertThat(source.erase(column("k").equalTo(1)).includingBookmarks().run().bookmarks())
        .containsExactly("position sum");
    insert(4);
    sum();
    assertThat(sums()).containsExactlyInAnyOrder("3-0", "1-0");
  }

  /** The entry of a commit that moves it, too, is at most 4 KiB longer. */
  @Test
  void movingItIsSmall() {
    for (int i = 0; i < 50; i++) {
      lake.setPosition("p" + i, "t.source", "t.target");
    }
    sum();
    lake.runInTransaction(
        Isolation.SNAPSHOT, work -> work.table("t.target").add(1L, 1L)); // with all else the same
    long alone = newestEntryBytes();
    insert(4);
    sum();
    assertThat(newestEntryBytes() - alone).isLessThan(4 << 10);
  }

  private long newestEntryBytes() {
    try (LakeCore core = LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS))) {
      long newest = core.refresh().number();
      return store.read(core.ledger().nameOf(newest)).length;
    }
  }

  @Test
  void itsPagesAreTakenAlong() {
    for (int i = 0; i < 30; i++) {
      insert(100 + i);
      sum();
      lake.setPosition("p" + i, "t.source", "t.target");
    }
    clock.advance(Duration.ofDays(1));
    lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    for (int i = 0; i < 3; i++) {
      lake.sweep().now().withEntries().run();
    }
    assertThat(lake.now().commit().entry()).isPositive();
    assertThat(lake.positions()).hasSize(31);
    insert(1);
    sum();
    assertThat(sums()).contains("1-0").hasSize(31);
  }
}
