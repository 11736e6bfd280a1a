package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.Finding;
import org.ysteron.proof.MendReport;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;

/** Pages of metadata are lost for good; what can be had of the lake is had. */
class MendTest {
  private static final int APPENDS = 9;

  private final MemoryStore store = new MemoryStore();

  @BeforeEach
  @SuppressWarnings("try") // the limits are there while they are open
  void makeALake() {
    Schema schema = Schema.of(Field.of("k", Types.INTEGER));
    try (Lake lake = Lake.create(store);
        SmallPages pages = new SmallPages(1, 1)) {
      Table one = lake.createTable("t.one", schema);
      Table two = lake.createTable("t.two", schema);
      for (int k = 0; k < APPENDS; k++) {
        append(one, k);
        append(two, k);
      }
      one.openWriter("logger").append(1, rows -> rows.add(APPENDS));
      one.bookmark("held", 2); // among those that go
      one.expire().keeping(Retention.EVERYTHING.andNewest(7)).run();
    }
  }

  private static void append(Table table, int k) {
    try (Append append = table.append()) {
      append.add(k);
      append.commit();
    }
  }

  private static Map<Long, List<Integer>> versions(Table table) {
    Map<Long, List<Integer>> versions = new TreeMap<>();
    for (TableVersion version : table.history(100)) {
      versions.put(version.version(), keys(table.at(version.version())));
    }
    return versions;
  }

  private static List<Integer> keys(TableView view) {
    return view.scan().rows().stream().map(row -> (Integer) row.get("k")).toList();
  }

  private Lake open(MemoryStore of) {
    return Lake.open(of, LakeOptions.DEFAULTS.threads(1));
  }

  /** The same lake, of which the pages of an entry are not what they were. */
  private MemoryStore withoutPagesOf(String entry) {
    MemoryStore copy = new MemoryStore();
    StoreContents.of(store)
        .forEach(
            (name, bytes) -> {
              byte[] written = bytes.clone();
              if (name.equals(entry)) {
                String text = new String(written, java.nio.charset.StandardCharsets.ISO_8859_1);
                int from = text.indexOf('\n', text.indexOf("\n{\"head\":") + 1) + 1;
                java.util.Arrays.fill(written, from, written.length, (byte) 7);
              }
              copy.createIfAbsent(name, written);
            });
    return copy;
  }

  @Test
  void whatIsLeftCanBeReadAndWrittenWhateverEntryHasLostItsPages() {
    Map<String, Map<Long, List<Integer>>> before = new TreeMap<>();
    Map<String, Map<Long, Instant>> times = new TreeMap<>();
    long newest;
    try (Lake lake = open(store)) {
      for (String name : List.of("t.one", "t.two")) {
        before.put(name, versions(lake.table(name)));
        Map<Long, Instant> made = new TreeMap<>();
        lake.table(name).history(100).forEach(v -> made.put(v.version(), v.commit().time()));
        times.put(name, made);
      }
      newest = lake.now().commit().entry();
    }
    int mended = 0;
    int again = 0;
    int beyond = 0;
    for (String entry : StoreContents.names(store, "ledger")) {
      if (entry.endsWith("%03d".formatted(newest))) {
        continue; // the newest entry comes from a copy, or not at all
      }
      MemoryStore copy = withoutPagesOf(entry);
      try (Lake lake = open(copy)) {
        List<Finding> found = lake.check().depth(CheckDepth.METADATA).run().findings();
        MendReport would = lake.mend().dryRun();
        MendReport report = lake.mend().run();
        assertThat(report.versions()).as(entry).isEqualTo(would.versions());
        boolean ofLakeOnly = found.stream().allMatch(finding -> finding.affected().isEmpty());
        if (ofLakeOnly) {
          assertThat(report.commits()).as("%s %s", entry, found).isEmpty();
          continue;
        }
        if (report.commits().isEmpty()) { // the page of a schema that all versions have
          assertThat(report.left())
              .as(entry)
              .allMatch(finding -> finding.problem().contains(entry))
              .anyMatch(finding -> concernsNewest(finding, before));
          beyond++;
          continue;
        }
        mended++;
      }
      try (Lake lake = open(copy)) {
        assertThat(lake.check().depth(CheckDepth.ROWS).run().findings())
            .as(entry)
            .allMatch(finding -> finding.affected().isEmpty());
        for (String name : before.keySet()) {
          Table table = lake.table(name);
          isOfItsTimeOrGone(table, before.get(name), times.get(name));
          again += isWhatIsLeft(table, before.get(name)) ? 1 : 0;
          append(table, 1000);
          assertThat(keys(table.now())).endsWith(1000);
        }
        assertThat(lake.mend().run().commits()).as(entry).isEmpty();
      }
    }
    assertThat(mended).isGreaterThan(5);
    assertThat(beyond).as("schemas, each a page of its own").isEqualTo(2);
    assertThat(again).as("versions that took the place of lost ones").isPositive();
  }

  private static boolean concernsNewest(Finding of, Map<String, Map<Long, List<Integer>>> before) {
    return of.affected().stream()
        .anyMatch(
            some -> {
              Map<Long, List<Integer>> versions = before.get(some.table());
              return versions.keySet().stream().allMatch(v -> v <= some.last())
                  && some.rows() == versions.get(some.last()).size();
            });
  }

  /** At the time of a version there is that version, or none; never a neighbour. */
  private static void isOfItsTimeOrGone(
      Table table, Map<Long, List<Integer>> before, Map<Long, Instant> times) {
    times.forEach(
        (version, time) -> {
          try {
            TableView then = table.at(time);
            assertThat(then.version()).isEqualTo(version);
            assertThat(keys(then)).isEqualTo(before.get(version));
          } catch (ExpiredException e) {
            assertThat(table.history(100)).noneMatch(v -> v.version() == version);
          }
        });
  }

  /** What can be read is what it was; whether a version took the place of the newest. */
  private static boolean isWhatIsLeft(Table table, Map<Long, List<Integer>> before) {
    long newest = before.keySet().stream().max(Long::compare).orElseThrow();
    Map<Long, List<Integer>> now = versions(table);
    boolean isMended = table.now().version() > newest;
    if (isMended) {
      assertThat(table.history(1).get(0).operation()).isEqualTo("mend");
      long from = table.history(1).get(0).rewoundTo().orElseThrow();
      assertThat(before.get(from)).containsAll(now.get(newest + 1));
      if (from < newest) {
        assertThat(now.get(newest + 1)).isEqualTo(before.get(from));
      }
      now.remove(newest + 1);
    }
    assertThat(before).containsAllEntriesOf(now);
    for (long version : before.keySet()) {
      if (!now.containsKey(version)) {
        try {
          table.at(version);
          throw new AssertionError("version " + version + " is there and not in the history");
        } catch (ExpiredException e) {
          assertThat(e).hasMessageContaining("by a mend of damaged pages");
        }
      }
    }
    for (Row row : table.scan().rows()) {
      assertThat((Integer) row.get("k")).isBetween(0, APPENDS);
    }
    return isMended;
  }
}
