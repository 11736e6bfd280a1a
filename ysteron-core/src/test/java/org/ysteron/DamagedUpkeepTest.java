package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.maintenance.UpkeepReport;
import org.ysteron.store.MemoryStore;

/** What is damaged keeps upkeep from nothing else, and is named. */
class DamagedUpkeepTest {
  private final MemoryStore store = new MemoryStore();
  private final Lake lake = Lake.create(store);

  @AfterEach
  void close() {
    lake.close();
  }

  private Table filled(String name) {
    Table table = lake.createTable(name, Schema.of(Field.of("k", Types.INTEGER)));
    for (int file = 0; file < 30; file++) {
      try (Append append = table.append()) {
        for (int k = 0; k < 20; k++) {
          append.add(k);
        }
        append.commit();
      }
    }
    return table;
  }

  private void spoil(String object, int at) {
    byte[] bytes = store.read(object);
    bytes[at] ^= 0x55;
    store.delete(object);
    store.createIfAbsent(object, bytes);
  }

  @Test
  void aDamagedFileIsLeftOutByNameAndTheRestIsPacked() {
    Table damaged = filled("t.damaged");
    Table sound = filled("t.sound");
    String file = damaged.now().files(20).get(7).name();
    spoil(file, 40);
    UpkeepReport report = lake.upkeep().run();
    assertThat(report.packed()).containsKeys("t.damaged", "t.sound");
    assertThat(report.failed()).hasSize(1);
    assertThat(report.failed().get("t.damaged")).contains(file);
    assertThat(sound.now().files()).hasSize(1);
    assertThat(damaged.now().files()).hasSize(2);
  }
}
