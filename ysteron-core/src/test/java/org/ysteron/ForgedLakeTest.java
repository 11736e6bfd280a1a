package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.Forger;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.LakeOptions;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.Finding;
import org.ysteron.store.MemoryStore;

/** A check finds counters and floors that are not true, though all hashes are right. */
class ForgedLakeTest {
  private final MemoryStore store = new MemoryStore();

  private void make() {
    try (Lake lake = Lake.create(store)) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      try (Append append = table.append()) {
        for (int k = 0; k < 10; k++) {
          append.add(k);
        }
        append.commit();
      }
    }
  }

  private void forge(UnaryOperator<VersionPage> change) {
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(0)))) {
      UUID id = core.refresh().page().tables(false, core.pages()).get(0).id();
      core.commit(
          staging -> {
            TableListing listing = staging.table(id).orElseThrow();
            VersionPage forged = change.apply(staging.next(listing, "append"));
            staging.put(forged, listing.numbers(), false);
          },
          CommitNote.standard());
    }
  }

  private List<String> problems(CheckDepth depth) {
    try (Lake lake = Lake.open(store)) {
      return lake.check().depth(depth).run().findings().stream().map(Finding::problem).toList();
    }
  }

  private void isFoundAtEachDepth(String problem) {
    for (CheckDepth depth : CheckDepth.values()) {
      assertThat(problems(depth)).as(depth.name()).anyMatch(told -> told.contains(problem));
    }
  }

  @Test
  void rowsThatAreNotThereAreFound() {
    make();
    forge(page -> Forger.rows(page, 1000));
    isFoundAtEachDepth("record says 1010 rows");
  }

  @Test
  void soAreThoseOfAnEarlierVersion() {
    make();
    forge(page -> Forger.rows(page, 1000));
    forge(page -> Forger.rows(page, -1000));
    isFoundAtEachDepth("record says 1010 rows");
  }

  @Test
  void soAreRowsThatWereNeverBorn() {
    make();
    forge(page -> Forger.lives(page, 3, 70));
    isFoundAtEachDepth("3 inserted and 70 removed");
  }

  @Test
  void aFloorThatNamesAnotherEntryIsFound() {
    make();
    try (Lake lake = Lake.open(store)) {
      lake.sweep().now().withEntries().run();
      lake.sweep().now().withEntries().run();
    }
    assertThat(problems(CheckDepth.METADATA)).isEmpty();
    String floor = StoreContents.names(store, "floor").first();
    String line = new String(store.read(floor), StandardCharsets.UTF_8);
    for (String wrong : List.of(line.replaceAll("[0-9a-f]{64}", "0".repeat(64)), "{}", "junk")) {
      store.delete(floor);
      store.createIfAbsent(floor, wrong.getBytes(StandardCharsets.UTF_8));
      assertThat(problems(CheckDepth.METADATA)).as(wrong).hasSize(1);
    }
  }
}
