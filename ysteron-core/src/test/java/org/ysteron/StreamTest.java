package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.StoreException;

/** Named writers, buffered appends, followers. */
class StreamTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.listOf(Types.text())));

  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store);
  private final Table table = lake.createTable("t.x", SCHEMA);

  private static Optional<?> write(NamedWriter writer, long number, int key) {
    return writer.append(number, rows -> rows.add(key, List.of("a", "b"))).committed();
  }

  @Test
  void aNumberIsAppliedOnce() {
    NamedWriter writer = table.openWriter("logger-7");
    assertThat(writer.session()).isEqualTo(1);
    assertThat(writer.lastApplied()).isEqualTo(-1);
    assertThat(write(writer, 3, 30)).isPresent();
    assertThat(write(writer, 3, 30)).isEmpty();
    assertThat(write(writer, 2, 20)).isEmpty();
    assertThat(write(writer, 4, 40)).isPresent();
    assertThat(writer.lastApplied()).isEqualTo(4);
    assertThat(table.scan().count()).isEqualTo(2);
    assertThatThrownBy(() -> write(writer, 4, 41))
        .isInstanceOf(InvalidInputException.class)
        .hasMessage(
            "Writer logger-7 of table t.x has already applied number 4 with other rows. Nothing was changed; use the next number, 5, for new rows.");
    assertThatThrownBy(() -> write(writer, -1, 1)).hasMessageContaining("must not be negative");
    assertThatThrownBy(() -> table.openWriter(" ")).hasMessage("A named writer needs a name.");
    assertThat(store.list("data/" + table.id(), "", 10)).hasSize(2);
  }

  @Test
  void openingAWriterEndsItsEarlierSessions() {
    NamedWriter zombie = table.openWriter("w");
    write(zombie, 0, 1);
    NamedWriter successor = Lake.open(store).table("t.x").openWriter("w");
    assertThat(successor.lastApplied()).isZero();
    assertThat(successor.session()).isEqualTo(2);
    assertThatThrownBy(() -> write(zombie, 1, 2))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("which ended session 1");
    assertThat(write(successor, 1, 2)).isPresent();
    assertThat(write(table.openWriter("another"), 1, 3)).isPresent();
    assertThat(table.scan().count()).isEqualTo(3);
  }

  @Test
  void aBufferedAppendCommitsBySizeByTimeAndAtTheEnd() throws Exception {
    List<Long> commits = new ArrayList<>();
    try (BufferedAppend rows =
        table.buffered(
            new BufferedAppend.Limits(3, 1 << 20, Duration.ofHours(1)),
            batch -> commits.add(batch.rows()))) {
      for (int k = 0; k < 7; k++) {
        rows.add(k, null);
      }
      assertThat(rows.acknowledged()).isEqualTo(6);
      assertThat(rows.flush()).isPresent();
      assertThat(rows.flush()).isEmpty();
      rows.add(7, null);
    }
    assertThat(commits).containsExactly(3L, 3L, 1L, 1L);
    CountDownLatch timed = new CountDownLatch(1);
    BufferedAppend timely =
        table.buffered(
            new BufferedAppend.Limits(100, 1 << 20, Duration.ofMillis(5)),
            batch -> timed.countDown());
    timely.add(8, null);
    assertThat(timed.await(20, TimeUnit.SECONDS)).isTrue();
    timely.close();
    assertThatThrownBy(() -> timely.add(9, null)).hasMessageContaining("was closed");
    assertThat(table.scan().count()).isEqualTo(9);
    assertThatThrownBy(() -> new BufferedAppend.Limits(0, 1, Duration.ofSeconds(1)))
        .isInstanceOf(InvalidInputException.class);
  }

  @Test
  void closingWaitsForACommitThatHasBegun() throws Exception {
    CountDownLatch begun = new CountDownLatch(1);
    CountDownLatch goOn = new CountDownLatch(1);
    Lake slow =
        Lake.open(
            new ForwardingStore(store) {
              @Override
              public boolean createIfAbsent(String name, byte[] content) {
                begun.countDown();
                try {
                  goOn.await();
                } catch (InterruptedException e) {
                  throw new StoreException("interrupted", e);
                }
                return super.createIfAbsent(name, content);
              }
            });
    BufferedAppend rows =
        slow.table("t.x").buffered(new BufferedAppend.Limits(100, 1 << 20, Duration.ofMillis(1)));
    rows.add(1, null);
    begun.await();
    rows.add(2, null);
    Thread closing = new Thread(rows::close);
    closing.start();
    while (closing.getState() != Thread.State.BLOCKED) {
      Thread.onSpinWait();
    }
    goOn.countDown();
    closing.join();
    assertThat(rows.acknowledged()).isEqualTo(2);
    assertThat(table.scan().count()).isEqualTo(2);
  }

  @Test
  void aBufferedAppendThatFailedSaysSoAtTheNextCall() {
    boolean[] broken = {false};
    Lake fragile =
        Lake.open(
            new ForwardingStore(store) {
              @Override
              public boolean createIfAbsent(String name, byte[] content) {
                if (broken[0]) {
                  throw new org.ysteron.store.NotAppliedException("the disk is full", null);
                }
                return super.createIfAbsent(name, content);
              }
            });
    BufferedAppend rows =
        fragile.table("t.x").buffered(new BufferedAppend.Limits(2, 1 << 20, Duration.ofHours(1)));
    rows.add(1, null);
    broken[0] = true;
    assertThatThrownBy(() -> rows.add(2, null)).isInstanceOf(StoreException.class);
    assertThatThrownBy(() -> rows.add(3, null)).hasMessageContaining("the disk is full");
    assertThatThrownBy(rows::close).hasMessageContaining("the disk is full");
    assertThat(table.scan().count()).isZero();
    assertThat(store.list("data/" + table.id(), "", 10)).isEmpty();
  }

  @Test
  void aFollowerGetsWhatEachVersionBrought() {
    Follower follower = table.follow(-1);
    assertThat(follower.poll().orElseThrow().version()).isZero();
    assertThat(follower.poll()).isEmpty();
    try (Append append = table.append()) {
      append.add(1, null).add(2, null);
      append.commit("one");
    }
    table.update().where(column("k").equalTo(1)).set("t", List.of("x")).run();
    table.delete().where(column("k").equalTo(2)).run();
    try (Transaction work = lake.begin()) {
      work.table("t.x").add(3, null).add(4, null);
      work.table("t.x").delete().where(column("k").equalTo(4)).run();
      work.commit();
    }
    List<List<Object>> steps = new ArrayList<>();
    Optional<Follower.Step> step = follower.await(Duration.ofSeconds(1));
    while (step.isPresent()) {
      List<Object> keys = new ArrayList<>();
      step.get().rows().forEach(row -> keys.add(row.get("k")));
      steps.add(keys);
      step = follower.await(Duration.ZERO);
    }
    assertThat(steps).containsExactly(List.of(1, 2), List.of(), List.of(), List.of(3));
    assertThat(follower.version()).isEqualTo(4);
    assertThat(table.follow(3).poll().orElseThrow().batches().toList()).hasSize(1);
    assertThatThrownBy(() -> table.follow(9))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("its versions are 0 to 4");
  }
}
