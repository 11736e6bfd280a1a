package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Arrays;
import java.util.BitSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Row;
import org.ysteron.error.DamagedException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.Budget;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.proof.Finding;
import org.ysteron.proof.MendReport;
import org.ysteron.report.TableVersion;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/** What a check says of a lake that has everything in it, whole and damaged. */
class CheckTest {
  private static final int STEP = Integer.getInteger("ysteron.damage", 211);

  private final Random random = new Random();
  private final DamagingStore store = new DamagingStore();

  @BeforeEach
  void makeALake() {
    RichLake.make(store);
  }

  private CheckReport check(CheckDepth depth) {
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      return lake.check().depth(depth).run();
    }
  }

  /** Which bytes a check of all of them asks for. */
  private Map<String, BitSet> used() {
    store.used.clear();
    check(CheckDepth.BYTES);
    Map<String, BitSet> used = new TreeMap<>();
    store.used.forEach((name, bytes) -> used.put(name, (BitSet) bytes.clone()));
    return used;
  }

  @Test
  void nothingIsFoundWhereNothingIs() {
    for (CheckDepth depth : CheckDepth.values()) {
      CheckReport report = check(depth);
      assertThat(report.findings()).as("%s", depth).isEmpty();
      assertThat(report.counts().gone()).isZero();
      assertThat(report.counts().tables()).isEqualTo(2);
      assertThat(report.counts().files())
          .matches(files -> (files > 0) == (depth != CheckDepth.METADATA));
      assertThat(report.counts().rows()).matches(rows -> (rows > 0) == (depth == CheckDepth.ROWS));
    }
  }

  @Test
  void everyByteThatIsLookedAtIsFoundWhenItFlips() {
    Map<String, byte[]> objects = StoreContents.of(store);
    Map<String, BitSet> used = used();
    long ofEntries = 0;
    long looked = 0;
    for (Map.Entry<String, byte[]> object : objects.entrySet()) {
      byte[] bytes = object.getValue();
      BitSet of = used.getOrDefault(object.getKey(), new BitSet());
      if (object.getKey().startsWith("ledger/")) {
        ofEntries += bytes.length;
        looked += of.cardinality();
      }
      if (object.getKey().startsWith("data/")) {
        assertThat(of.cardinality()).as(object.getKey()).isEqualTo(bytes.length);
      }
      int step = object.getKey().startsWith("data/") ? 9 * STEP : STEP;
      for (int i = random.nextInt(step); i < bytes.length; i += step) {
        if (of.get(i)) {
          byte[] flipped = bytes.clone();
          flipped[i] ^= (byte) (1 << (i % 8));
          store.damage(object.getKey(), flipped);
          isFound(object.getKey(), "byte " + i + " flipped");
        }
      }
    }
    // A copying commit may have made pages anew that it had made before.
    assertThat(looked).as("bytes of entries that are looked at").isGreaterThan(ofEntries * 8 / 10);
  }

  private void isFound(String object, String what) {
    CheckReport report;
    try {
      report = check(CheckDepth.BYTES);
    } catch (UnsupportedLakeException | WrongLakeException e) {
      return; // what is known is judged before any sum
    } catch (DamagedException e) {
      assertThat(e).as("%s %s", object, what).hasMessageContaining(object.substring(0, 5));
      return; // it is the newest entry
    }
    assertThat(report.findings()).as("%s %s %s", object, what, report).isNotEmpty();
    assertThat(report.findings())
        .as("%s %s", object, what)
        .anyMatch(finding -> finding.object().equals(object) || finding.problem().contains(object));
  }

  @Test
  void everyObjectThatIsCutShortOrRemovedOrSwappedIsFound() {
    Map<String, byte[]> objects = StoreContents.of(store);
    Map<String, BitSet> used = used();
    List<String> needed =
        objects.keySet().stream()
            .filter(name -> used.containsKey(name) && !name.startsWith("floor"))
            .toList();
    for (String name : needed) {
      byte[] bytes = objects.get(name);
      store.damage(name, Arrays.copyOf(bytes, random.nextInt(used.get(name).length())));
      isFound(name, "cut");
      store.remove(name);
      isFound(name, "removed");
      String other = needed.get(random.nextInt(needed.size()));
      if (!other.equals(name)) {
        store.damage(name, objects.get(other));
        isFound(name, "swapped with " + other);
      }
    }
  }

  @Test
  void whatIsLostIsTakenOutOfTheNewestVersionAndEarlierOnesSayWhatTheyLack() {
    String file;
    long rows;
    long before;
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      assertThat(lake.mend().run().lost()).isEmpty();
      TableView now = lake.table("tide.readings").now();
      before = now.scan().count();
      FileEntry lost =
          now.entries().stream()
              .filter(entry -> entry.mask().isPresent())
              .findFirst()
              .orElseThrow();
      file = lost.objectName(now.page().id());
      rows = lost.liveRows();
    }
    store.remove(file);
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      Table table = lake.table("tide.readings");
      assertThatThrownBy(() -> table.scan().rows().forEach(row -> {}))
          .isInstanceOf(DamagedException.class);
      long version = table.now().version();
      assertThat(lake.mend().dryRun().rows()).isEqualTo(rows);
      assertThat(table.now().version()).isEqualTo(version);
      MendReport report = lake.noting("a disk died").mend().run();
      assertThat(report.rows()).isEqualTo(rows);
      assertThat(report.commits()).hasSize(1);
      assertThat(report.left()).isEmpty();
      TableVersion mended = table.history(1).get(0);
      assertThat(mended.operation()).isEqualTo("mend");
      assertThat(mended.counts().rowsRemoved()).isEqualTo(rows);
      assertThat(mended.commit().note()).isEqualTo("a disk died");
      long read = 0;
      for (Row row : table.scan().rows()) {
        read += row.fields().isEmpty() ? 0 : 1;
      }
      assertThat(read).isEqualTo(before - rows);
      // Earlier versions still lack it, and no version does once they have expired.
      List<Finding> findings = lake.check().run().findings();
      assertThat(findings).hasSize(1);
      assertThat(findings.get(0).affected()).allMatch(affected -> affected.last() <= version);
      assertThat(lake.mend().run().lost()).isEmpty();
      lake.bookmarks().forEach(mark -> lake.dropBookmark(mark.name()));
      lake.positions().forEach(position -> lake.dropPosition(position.name()));
      table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
    }
  }

  /** Whatever is looked at first when others let go all that the check has begun with. */
  @Test
  void whatOthersLetGoMeanwhileIsNotMissing() {
    for (String at : List.of("data/", "ledger/", "pages/")) {
      int acted = 0;
      for (int call = 1; call < 30; call += at.equals("pages/") ? 1 : 3) {
        MemoryStore shared = new MemoryStore();
        try (SmallEntries small = new SmallEntries(at.equals("pages/") ? 1 : 0)) {
          assertThat(small).isNotNull();
          RichLake.make(shared);
        }
        int[] calls = {0, call};
        try (Lake lake = Lake.open(letting(shared, at, calls), LakeOptions.DEFAULTS.threads(1))) {
          calls[0] = 1;
          CheckReport report = lake.check().depth(CheckDepth.ROWS).run();
          assertThat(report.findings()).as("at call %d of %s", call, at).isEmpty();
          acted += calls[0] == 0 ? 1 : 0;
        }
      }
      assertThat(acted).as("how often others were at work, at %s", at).isPositive();
    }
  }

  private static ObjectStore letting(MemoryStore shared, String at, int[] calls) {
    return new ForwardingStore(shared) {
      private void called(String name) {
        if (calls[0] > 0 && name.startsWith(at) && calls[0]++ == calls[1]) {
          calls[0] = 0;
          try (Lake others = Lake.open(shared)) {
            others.bookmarks().forEach(mark -> others.dropBookmark(mark.name()));
            others.table("tide.readings").rewrite().run();
            others.table("tide.other").rewrite().run();
            others.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
            others.sweep().now().withEntries().run();
            others.sweep().now().withEntries().full().run();
          }
        }
      }

      @Override
      public ObjectInput open(String name) {
        called(name);
        return super.open(name);
      }

      @Override
      public byte[] read(String name) {
        called(name);
        return super.read(name);
      }

      @Override
      public byte[] readRange(String name, long offset, int length) {
        called(name);
        return super.readRange(name, offset, length);
      }
    };
  }

  @Test
  void slicesGoOnWhereTheLastOneEnded() {
    long all = check(CheckDepth.BYTES).counts().files();
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      String position = "";
      long looked = 0;
      int slices = 0;
      while (slices == 0 || !position.isEmpty()) {
        CheckReport report =
            lake.check()
                .depth(CheckDepth.BYTES)
                .after(position)
                .within(Budget.ALL.ofFiles(4))
                .run();
        looked += report.counts().files();
        assertThat(report.findings()).isEmpty();
        position = report.position().orElse("");
        slices++;
      }
      assertThat(looked).isEqualTo(all);
      assertThat(slices).isEqualTo((int) ((all + 3) / 4));
    }
  }

  @Test
  void aLostDataFileTellsWhichVersionsAndRowsItConcerns() {
    String file;
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      file = lake.table("tide.other").now().files().get(0).name();
    }
    store.remove(file);
    CheckReport report = check(CheckDepth.FILES);
    assertThat(report.isWhole()).isFalse();
    Finding finding = report.findings().get(0);
    assertThat(report.findings()).hasSize(1);
    assertThat(finding.kind()).isEqualTo(Finding.Kind.FILE);
    assertThat(finding.object()).isEqualTo(file);
    assertThat(finding.affected()).isNotEmpty();
    Finding.Affected affected = finding.affected().get(finding.affected().size() - 1);
    assertThat(affected.table()).isEqualTo("tide.other");
    assertThat(affected.rows()).isPositive();
    assertThat(affected.until()).isEmpty();
    assertThat(check(CheckDepth.METADATA).isWhole()).isTrue();
  }
}
