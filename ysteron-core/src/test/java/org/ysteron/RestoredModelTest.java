package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.maintenance.Sweep;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.store.MemoryStore;

/**
 * Lakes that were put back from a copy in the middle of work, some of which goes on: nothing of the
 * line that was lost gets into the one that was restored, nor does a sweep of either take anything
 * from it.
 */
class RestoredModelTest {
  private static final Schema SCHEMA = Schema.of(Field.of("k", Types.INTEGER)).withKey("k");

  private Random random;
  private int next;

  @Property(tries = 200)
  void nothingOfALostLineComesBack(@ForAll long seed) {
    random = new Random(seed);
    next = 0;
    PlaceStore place = new PlaceStore(new MemoryStore());
    Lake lost = Lake.create(place, LakeOptions.DEFAULTS.threads(1));
    lost.createTable("t.x", SCHEMA);
    Set<Integer> rows = new TreeSet<>();
    work(lost, rows, 1 + random.nextInt(6));
    MemoryStore copy = new MemoryStore();
    StoreContents.copy(place, copy);
    Set<Integer> copied = new TreeSet<>(rows);
    append(lost.table("t.x"), next++); // else it is the same line
    work(lost, rows, random.nextInt(6));
    // Work on the lost line that is not committed yet, from before the copy was made or after.
    Table table = lost.table("t.x");
    try (Append late = table.append()) {
      late.add(1_000_000);
      work(lost, rows, random.nextInt(3));
      place.now = copy;
      try (Lake back = Lake.open(place)) {
        back.confirmRestore();
        work(back, copied, random.nextInt(8));
        Sweep sweep = back.sweep().now();
        (random.nextBoolean() ? sweep.withEntries().full() : sweep).run();
        assertThatThrownBy(late::commit).isInstanceOf(YsteronException.class);
        // Whoever has seen entries of the lost line is refused, or finds that those numbers have
        // expired, and goes on with what is there.
        try {
          lost.sweep().now().withEntries().full().run();
          append(lost.table("t.x"), 2_000_000);
          copied.add(2_000_000);
        } catch (WrongLakeException e) {
          assertThat(e).hasMessageContaining("is missing in");
        }
        work(back, copied, 2);
        assertThat(keys(back.table("t.x"))).isEqualTo(copied);
      }
    }
    try (Lake again = Lake.open(copy)) {
      assertThat(keys(again.table("t.x"))).isEqualTo(copied);
      again
          .table("t.x")
          .history(100)
          .forEach(v -> again.table("t.x").at(v.version()).scan().count());
    }
  }

  private void work(Lake lake, Set<Integer> rows, int steps) {
    Table table = lake.table("t.x");
    for (int step = 0; step < steps; step++) {
      switch (random.nextInt(5)) {
        case 0 -> {
          int below = random.nextInt(next + 1);
          table.delete().where(column("k").lessThan(below)).run();
          rows.removeIf(k -> k < below);
        }
        case 1 -> table.compact().full().run();
        case 2 -> {
          table.expire().keeping(Retention.EVERYTHING.andNewest(1 + random.nextInt(3))).run();
          Sweep sweep = lake.sweep().now();
          (random.nextBoolean() ? sweep.withEntries() : sweep).run();
        }
        default -> {
          append(table, next);
          rows.add(next++);
        }
      }
    }
  }

  private static void append(Table table, int key) {
    try (Append append = table.append()) {
      append.add(key);
      append.commit();
    }
  }

  private static Set<Integer> keys(Table table) {
    Set<Integer> keys = new TreeSet<>();
    for (Row row : table.scan().rows()) {
      assertThat(keys.add(row.getInt("k"))).isTrue();
    }
    return keys;
  }
}
