package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.store.MemoryStore;

/** Holds that end, which later programs make, and trees that this one does not take along. */
class EndingHoldTest {
  private final MemoryStore store = new MemoryStore();

  private void edit(Function<LakeCore, Staging.LakeEdit> edit) {
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(0)))) {
      core.commit(
          staging -> staging.edit(LakeFeature.EXPIRY, edit.apply(core)), CommitNote.standard());
    }
  }

  private UUID makeTable() {
    try (Lake lake = Lake.create(store)) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      for (int k = 0; k < 5; k++) {
        try (Append append = table.append()) {
          append.add(k);
          append.commit();
        }
      }
      return table.id();
    }
  }

  private static Instant now() {
    return Instant.now().truncatedTo(ChronoUnit.MILLIS);
  }

  private void hold(String name, UUID table, long version, Instant ends) {
    HoldRecord hold =
        new HoldRecord(
            4,
            name,
            false,
            version + 1,
            now(),
            Optional.of(ends),
            Map.of(table, version),
            Unread.NOTHING);
    edit(
        core ->
            (lake, own) ->
                lake.with(lake.upkeep().withHold(Edit.put(hold.key(), hold), core.pages(), own)));
  }

  @Test
  void aHoldThatIsOverEndsWithTheVersionsThatGo() {
    UUID table = makeTable();
    hold("over", table, 1, now().minusSeconds(1));
    hold("lasting", table, 2, now().plusSeconds(3600));
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.health().holds()).isEqualTo(2);
      lake.table("t.x").expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      assertThat(lake.health().holds()).isEqualTo(1);
      assertThat(lake.table("t.x").at(2).scan().count()).isEqualTo(2);
      assertThatThrownBy(() -> lake.table("t.x").at(1)).isInstanceOf(ExpiredException.class);
      assertThat(lake.check().run().findings()).isEmpty();
    }
  }

  @Test
  void aLakeWithDraftsIsNotWrittenTo() {
    makeTable();
    edit(
        core ->
            (lake, own) -> {
              UpkeepState had = lake.upkeep();
              return lake.with(
                  new UpkeepState(
                      had.horizon(),
                      had.floor(),
                      had.floorSet(),
                      had.swept(),
                      had.pagesFrom(),
                      had.free(),
                      had.holds(),
                      new PageTree.Root(own.add(new byte[] {1, 2, 3}), 0, 1),
                      had.positions(),
                      had.erasures(),
                      had.waiting(),
                      had.settings()));
            });
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.table("t.x").scan().count()).isEqualTo(5);
      Append append = lake.table("t.x").append().add(6);
      assertThatThrownBy(append::commit)
          .isInstanceOf(UnsupportedLakeException.class)
          .hasMessageContaining("has drafts");
      assertThatThrownBy(() -> lake.sweep().now().run())
          .isInstanceOf(UnsupportedLakeException.class);
    }
  }
}
