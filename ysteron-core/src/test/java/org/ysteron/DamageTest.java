package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.fail;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.expr.Condition;
import org.ysteron.history.Changes;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.option.LakeOptions;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

/**
 * Every byte of a small lake counts: one that changes is reported, and never changes an answer. Of
 * the bytes some are tried, each time others; {@code -Dysteron.damage=1} tries them all.
 */
class DamageTest {
  private static final int STEP = Integer.getInteger("ysteron.damage", 15);

  private final Random random = new Random();
  private final DamagingStore store = new DamagingStore();
  private final Map<String, BitSet> used = new TreeMap<>();
  private List<String> answers;

  @BeforeEach
  void makeASmallLake() {
    RichLake.make(store);
    store.used.clear();
    answers = readEverything();
    store.used.forEach((name, bytes) -> used.put(name, (BitSet) bytes.clone()));
  }

  /** Reads all that any object of the lake belongs to: ledger, histories, versions, rows. */
  private List<String> readEverything() {
    List<String> read = new ArrayList<>();
    try (Lake lake = Lake.open(store, LakeOptions.DEFAULTS.threads(1))) {
      lake.commits(100).forEach(commit -> read.add(commit.toString()));
      for (String name : List.of("tide.readings", "tide.other")) {
        Table table = lake.table(name);
        table.history(100).forEach(record -> read(table.at(record.version()), read));
        readChanges(table, read);
      }
      lake.positions().forEach(position -> read.add(position.toString()));
      lake.bookmarks().forEach(mark -> read.add(mark.toString()));
      read.add("" + lake.table("tide.readings").atBookmark("noted").scan().count());
      read.add("" + lake.atBookmark("all").tables());
      read.add("" + lake.health());
      for (CommitStamp commit : lake.commits(100)) {
        LakeView then = lake.at(commit.time());
        read.add(then.tables().size() + " tables at " + then.commit().entry());
        read.add("" + then.findCommit(new UUID(0, 0), 100));
      }
    }
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)))) {
      TableListing listing = core.refresh().page().tables(false, core.pages()).get(0);
      read.add("" + TableHead.read(listing.head(), core.pages()).writer("logger", core.pages()));
    }
    return read;
  }

  private static void readChanges(Table table, List<String> read) {
    List<TableVersion> kept = table.history(100);
    Changes changes = table.between(kept.get(kept.size() - 1).version(), kept.get(0).version());
    read.add("" + changes.summary());
    changes.withUnchanged().rows().forEach(row -> read.add(row.toString()));
    Condition some = Condition.column("level").greaterThan(5);
    table.now().origins(some).forEach(row -> read.add(row.toString()));
    table.rowHistory(some).forEach(step -> read.add(step.toString()));
  }

  private static void read(TableView view, List<String> read) {
    read.add(view.page().form() + "");
    read.add(view.statistics() + "");
    view.history(10).forEach(record -> read.add(record.operation() + record.totals()));
    view.entries().forEach(file -> read.add(file.numbers() + "" + file.trackedRanges()));
    view.scan().rows().forEach(row -> read.add(row.toString()));
    Condition some = Condition.column("level").greaterThan(5);
    view.scan().where(some).rows().forEach(row -> read.add(row.toString()));
  }

  /** All objects that anything refers to: a transaction leaves files that it did not need. */
  private Map<String, byte[]> objects() {
    Map<String, byte[]> objects = StoreContents.of(store);
    objects.keySet().retainAll(used.keySet());
    return objects;
  }

  @Test
  void everyFlippedByteIsReported() {
    int unused = 0;
    Set<String> kinds = new TreeSet<>();
    for (Map.Entry<String, byte[]> object : objects().entrySet()) {
      kinds.add(object.getKey().substring(0, 4));
      byte[] bytes = object.getValue();
      boolean newest = object.getKey().equals(used.keySet().stream().reduce("", DamageTest::later));
      // Data files are covered by one mechanism throughout, so that fewer will do.
      int step = object.getKey().startsWith("data/") ? 3 * STEP : STEP;
      for (int i = random.nextInt(step); i < bytes.length; i += step) {
        // Of older commits there are pages that nothing refers to any more: old heads and listings,
        // and what only versions had that expired.
        if (!object.getKey().startsWith("data/") && !used.get(object.getKey()).get(i)) {
          assertThat(newest).as("byte %d of the newest entry", i).isFalse();
          unused++;
          continue;
        }
        byte[] flipped = bytes.clone();
        flipped[i] ^= (byte) (1 << (i % 8));
        store.damage(object.getKey(), flipped);
        expectReport(object.getKey() + " with byte " + i + " flipped");
      }
    }
    assertThat(kinds).containsExactly("data", "ledg", "page");
    int all = objects().entrySet().stream().mapToInt(e -> e.getValue().length).sum();
    assertThat(unused).isLessThan(all / 2 / STEP);
  }

  private static String later(String one, String other) {
    return other.startsWith("ledger/") ? other : one;
  }

  @Test
  void everyObjectThatIsCutShortOrMissingIsReported() {
    for (Map.Entry<String, byte[]> object : objects().entrySet()) {
      byte[] bytes = object.getValue();
      boolean pages = object.getKey().startsWith("pages/"); // which are read one by one
      int length = pages ? used.get(object.getKey()).length() : bytes.length;
      for (int keep = 0; keep < length; keep += 1 + length / 30) {
        store.damage(object.getKey(), Arrays.copyOf(bytes, keep));
        expectReport(object.getKey() + " cut to " + keep);
      }
      if (!pages) {
        store.damage(object.getKey(), Arrays.copyOf(bytes, bytes.length + 1));
        expectReport(object.getKey() + " with a byte too many");
      }
      store.remove(object.getKey());
      expectReport(object.getKey() + " removed");
    }
  }

  private void expectReport(String what) {
    try {
      List<String> read = readEverything();
      fail(what + " was not reported" + (read.equals(answers) ? "" : " and changed an answer"));
    } catch (UnsupportedLakeException e) {
      // Another word for a feature, or another format: what is known is judged before any sum.
      assertThat(e).hasMessageFindingMatch("feature|format");
    } catch (DamagedException e) {
      assertThat(e).hasMessageFindingMatch("ledger/|data/|entry [0-9]|page");
    }
  }

  @Test
  void aSwappedDataFileIsReported() {
    List<String> files =
        objects().keySet().stream().filter(name -> name.startsWith("data/")).toList();
    store.damage(files.get(0), store.read(files.get(1)));
    assertThatThrownBy(this::readEverything).isInstanceOf(DamagedException.class);
  }
}
