package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.StoreException;

/** An entry is trimmed before the one who has offered it, or lost it, could look whose it is. */
class TrimmedSlotTest {
  private final MemoryStore store = new MemoryStore();

  @BeforeEach
  void make() {
    try (Lake lake = Lake.create(store)) {
      Table table =
          lake.createTable(
              "t.x", Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)));
      try (Append append = table.append()) {
        append.add(1, 0L).add(2, 0L);
        append.commit();
      }
    }
  }

  private void increase(Lake lake, int k) {
    lake.table("t.x")
        .update()
        .where(column("k").equalTo(k))
        .setBy("v", row -> (Long) row.get("v") + 1)
        .run();
  }

  /** The first entry that is offered meets others, who trim the ledger at once. */
  private final class Meeting extends ForwardingStore {
    private final boolean isOwn;
    private boolean hasMet;

    /** {@code isOwn}: whether the entry is made first, of which no reply comes. */
    Meeting(boolean isOwn) {
      super(store);
      this.isOwn = isOwn;
    }

    @Override
    public boolean createIfAbsent(String name, byte[] content) {
      if (hasMet || !name.startsWith("ledger/")) {
        return super.createIfAbsent(name, content);
      }
      hasMet = true;
      if (isOwn) {
        assertThat(super.createIfAbsent(name, content)).isTrue();
      }
      try (Lake other = Lake.open(store)) {
        increase(other, 2);
        other.sweep().now().withEntries().run();
        other.sweep().now().withEntries().run(); // the first one keeps the newest entry
      }
      assertThat(StoreContents.names(store, "ledger")).doesNotContain(name);
      if (isOwn) {
        throw new StoreException("no reply");
      }
      return false;
    }
  }

  private void isDoneOnce(boolean isOwn) {
    try (Lake lake = Lake.open(new Meeting(isOwn), LakeOptions.DEFAULTS.threads(0))) {
      increase(lake, 1);
    }
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.table("t.x").scan().where(column("v").equalTo(1L)).count()).isEqualTo(2);
      assertThat(lake.table("t.x").history(9)).hasSize(4);
    }
  }

  @Test
  void whoseEntryItWasIsKnownFromTheHistory() {
    isDoneOnce(true);
  }

  @Test
  void whoLostItAndCannotReadItRunsAgain() {
    isDoneOnce(false);
  }
}
