package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.BiFunction;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.option.Isolation;
import org.ysteron.option.Retention;

/**
 * Work under which somebody else sweeps is a conflict, and is done again where that is promised.
 */
class SweptWorkTest {
  private static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER).notNull(), Field.of("v", Types.text())).withKey("k");

  @TempDir private Path directory;
  private Lake lake;
  private Lake other;
  private Table table;
  private final AtomicBoolean isFirst = new AtomicBoolean(true);

  @BeforeEach
  void makeLake() {
    lake = Lake.create(directory.resolve("lake"));
    other = Lake.open(directory.resolve("lake"));
    table = lake.createTable("t.x", SCHEMA);
    lake.createTable("t.y", Schema.of(Field.of("n", Types.BIGINT)));
    for (int file = 0; file < 4; file++) {
      try (Append append = table.append()) {
        for (int k = 0; k < 20; k++) {
          append.add(20 * file + k, "v" + k);
        }
        append.commit();
      }
    }
  }

  @AfterEach
  void close() {
    other.close();
    lake.close();
  }

  /** Somebody else packs, lets go of the versions before and deletes all they had; once. */
  private void sweep() {
    if (isFirst.getAndSet(false)) {
      Table theirs = other.table("t.x");
      theirs.compact().full().run();
      theirs.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      other.sweep().now().withEntries().run();
      other.sweep().now().run();
    }
  }

  static Stream<Arguments> works() {
    return Stream.of(
        work("sweep, then add", (in, sweep) -> then(sweep, () -> in.table("t.x").add(999, "n"))),
        work(
            "add much, then sweep",
            (in, sweep) -> {
              for (int k = 1000; k < 101_000; k++) {
                in.table("t.x").add(k, "row " + k * 7919L % 1_000_003);
              }
              sweep.run();
              return null;
            }),
        work(
            "sweep, then read rows",
            (in, sweep) ->
                then(
                    sweep,
                    () -> in.table("t.y").add(in.table("t.x").scan().rows().stream().count()))),
        work(
            "sweep, then delete",
            (in, sweep) ->
                then(sweep, () -> in.table("t.x").delete().where(column("k").equalTo(3)).run())),
        work(
            "delete, then sweep",
            (in, sweep) -> {
              in.table("t.x").delete().where(column("k").equalTo(3)).run();
              sweep.run();
              return null;
            }),
        work(
            "sweep, then upsert",
            (in, sweep) ->
                then(
                    sweep,
                    () ->
                        in.table("t.x")
                            .upsert(
                                MergeSource.values(
                                    List.of("k", "v"), to -> to.add(new Object[] {5, "u"})))
                            .run())));
  }

  private static Object then(Runnable sweep, Supplier<Object> work) {
    sweep.run();
    return work.get();
  }

  private static Arguments work(String name, BiFunction<Transaction, Runnable, Object> work) {
    return Arguments.of(name, work);
  }

  @ParameterizedTest(name = "{0}")
  @MethodSource("works")
  void aTransactionIsDoneAgain(String name, BiFunction<Transaction, Runnable, Object> work) {
    lake.inTransaction(Isolation.SERIALIZABLE, in -> work.apply(in, this::sweep) == null);
    assertThat(isFirst).isFalse();
    assertThat(lake.check().run().findings()).isEmpty();
  }

  @ParameterizedTest(name = "{0}")
  @MethodSource("works")
  void aTransactionByHandIsToldThatItStartedTooEarly(
      String name, BiFunction<Transaction, Runnable, Object> work) {
    try (Transaction in = lake.begin()) {
      in.table("t.x").scan().count();
      if (name.contains("read rows")) {
        sweep();
        in.table("t.y").add(1L);
      } else {
        assertTooEarly(
            () -> {
              Object done = work.apply(in, this::sweep);
              assertThat(in.commit()).isNotSameAs(done);
            });
        return;
      }
      assertTooEarly(in::commit);
    }
  }

  private static void assertTooEarly(ThrowingCallable call) {
    assertThatThrownBy(call)
        .isInstanceOfSatisfying(
            ConflictException.class,
            e -> assertThat(e.kind()).isEqualTo(ConflictException.Kind.SNAPSHOT_TOO_OLD));
  }

  @Test
  void anAppendWhoseFileIsSweptIsAConflict() {
    try (Append append = table.append()) {
      for (int k = 1000; k < 101_000; k++) {
        append.add(k, "row " + k * 7919L % 1_000_003);
      }
      sweep();
      assertTooEarly(append::commit);
    }
    assertThat(table.scan().count()).isEqualTo(80);
  }

  @Test
  void anUpdateANamedWriterAndAPackingAreDoneAgain() {
    table
        .update()
        .all()
        .setBy(
            "v",
            row -> {
              sweep();
              return "u";
            })
        .run();
    isFirst.set(true);
    NamedWriter writer = table.openWriter("w");
    writer.append(
        1,
        rows -> {
          for (int k = 1000; k < 101_000; k++) {
            rows.add(k, "row " + k);
          }
          sweep();
        });
    assertThat(table.scan().count()).isEqualTo(100_080);
    assertThat(lake.check().run().findings()).isEmpty();
  }

  @Test
  void aRewindToTheVersionThatIsThereStillMeansThatVersion() {
    for (boolean isAltered : new boolean[] {false, true}) {
      long target = table.now().version();
      List<Row> rows = table.scan().rows().toList();
      try (Transaction in = lake.begin()) {
        try (Append append = table.append()) {
          append.add((int) (2000 + target), "meanwhile");
          append.commit();
        }
        in.table("t.x").rewind().to(target).run();
        if (isAltered) {
          in.table("t.x").alter().add(Field.of("c", Types.INTEGER)).run();
        }
        assertThatThrownBy(in::commit)
            .isInstanceOf(ConflictException.class)
            .hasMessageContaining("rewind");
      }
      lake.inTransaction(
          Isolation.SERIALIZABLE,
          in -> {
            in.table("t.x").rewind().to(target).run();
            return null;
          });
      assertThat(table.scan().rows().toList()).isEqualTo(rows);
    }
    assertThat(table.rewind().to(table.now().version()).run().isCommitted()).isFalse();
  }
}
