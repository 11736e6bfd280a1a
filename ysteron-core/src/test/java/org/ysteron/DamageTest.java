package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.fail;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
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
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.WriteRules;
import org.ysteron.report.CommitStamp;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.ShortObjectException;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;

/**
 * Every byte of a small lake counts: one that changes is reported, and never changes an answer. Of
 * the bytes some are tried, each time others; {@code -Dysteron.damage=1} tries them all.
 */
class DamageTest {
  private static final int STEP = Integer.getInteger("ysteron.damage", 5);

  private final Random random = new Random();
  private final DamagingStore store = new DamagingStore();
  private final Map<String, BitSet> used = new TreeMap<>();
  private List<String> answers;

  /** Hands out one object changed, cut short, or not at all. */
  private static final class DamagingStore extends ForwardingStore {
    private String damaged = "";
    private byte[] content;
    private boolean gone;

    DamagingStore() {
      super(new MemoryStore());
    }

    void damage(String name, byte[] bytes) {
      damaged = name;
      content = bytes;
      gone = false;
    }

    void remove(String name) {
      damaged = name;
      gone = true;
    }

    private final Map<String, BitSet> used = new TreeMap<>();

    /**
     * Notes which bytes were asked for; of an entry that is opened only its lines are looked at.
     */
    private void use(String name, long from, long to) {
      used.computeIfAbsent(name, n -> new BitSet()).set((int) from, (int) to);
    }

    private static int lines(byte[] entry) {
      String text = new String(entry, StandardCharsets.ISO_8859_1);
      return text.indexOf('\n', text.indexOf("\n{\"head\":") + 1) + 1;
    }

    @Override
    public byte[] read(String name) {
      if (!name.equals(damaged)) {
        byte[] all = super.read(name);
        use(name, 0, name.startsWith("ledger/") ? lines(all) : all.length);
        return all;
      }
      if (gone) {
        throw new MissingObjectException(name, location());
      }
      return content.clone();
    }

    @Override
    public byte[] readRange(String name, long offset, int length) {
      if (!name.equals(damaged)) {
        use(name, offset, offset + length);
        return super.readRange(name, offset, length);
      }
      return open(name).read(offset, length);
    }

    @Override
    public ObjectInput open(String name) {
      if (!name.equals(damaged)) {
        ObjectInput all = super.open(name);
        use(name, 0, name.startsWith("ledger/") ? lines(super.read(name)) : all.size());
        return all;
      }
      byte[] bytes = read(name);
      return new ObjectInput() {
        @Override
        public long size() {
          return bytes.length;
        }

        @Override
        public void readFully(long offset, ByteBuffer target) {
          int length = target.remaining();
          if (offset + length > bytes.length) {
            throw new ShortObjectException(name, location(), bytes.length, offset + length);
          }
          target.put(bytes, (int) offset, target.remaining());
        }

        @Override
        public void close() {}
      };
    }
  }

  @BeforeEach
  void makeASmallLake() {
    try (Lake lake = Lake.create(store, Clock.systemUTC(), 1)) {
      Table table =
          lake.createTable(
              "tide.readings",
              Schema.of(
                  Field.of("gauge", Types.text()).notNull(),
                  Field.of("level", Types.INTEGER),
                  Field.of("notes", Types.listOf(Types.text()))));
      for (int commit = 0; commit < 2; commit++) {
        try (Append append = table.append()) {
          for (int i = 0; i < 10; i++) {
            append.add("ORR-" + i % 3, i % 4 == 0 ? null : i * commit, List.of("n" + i));
          }
          append.commit("commit " + commit);
        }
      }
      table.delete().where(Condition.column("level").equalTo(7)).style(ChangeStyle.MASK).run();
      try (Transaction work = lake.begin()) {
        TransactionTable inside = work.table("tide.readings");
        inside
            .update()
            .where(Condition.column("level").equalTo(6))
            .set("gauge", "ORR-9")
            .style(ChangeStyle.MASK)
            .run();
        inside.rewrite().run();
        inside.alter().add(Field.of("more", Types.INTEGER).withDefault(7)).run();
        work.commit();
      }
      table.openWriter("logger").append(1, rows -> rows.add("ORR-1", 5, null, 7));
      fromElsewhere(lake, table);
      fromOthers(lake);
      for (int level = 8; level < 10; level++) {
        try (Append append = lake.table("tide.other").append()) {
          append.add("ORR-2", level, null, null);
          append.commit();
        }
      }
      assertThat(lake.table("tide.other").compact().thoroughly().run().commits()).isNotEmpty();
      assertThat(table.measure().columns()).hasSize(3);
      letGo(lake, table);
      LayoutPlan curve = LayoutPlan.none().along("gauge", "level");
      lake.table("tide.other").alter().layout(curve).run();
    }
    store.used.clear();
    answers = readEverything();
    store.used.forEach((name, bytes) -> used.put(name, (BitSet) bytes.clone()));
  }

  /** Some versions expire, some are named; what is kept is copied, and the rest swept. */
  @SuppressWarnings("try") // the limits are there while they are open
  private static void letGo(Lake lake, Table table) {
    table.bookmark("noted", 2);
    lake.bookmark("all");
    lake.expire().keeping(Retention.EVERYTHING.andNewest(4)).run();
    assertThat(lake.sweep().now().withEntries().run().all().objects()).isPositive();
    Table other = lake.table("tide.other");
    try (Append append = other.append();
        SmallEntries objects = new SmallEntries(1)) {
      append.add("ORR-7", 77, null, null);
      append.commit();
      lake.table("tide.other").expire().keeping(Retention.EVERYTHING.andNewest(3)).run();
    }
  }

  /** A delta that others have prepared with the store alone. */
  private void fromOthers(Lake lake) {
    LakeView pinned = lake.now();
    ScanTask task = pinned.table("tide.other").scan().tasks().get(0);
    try (RowWriter writer = pinned.writeTask("tide.other").open(store, 0)) {
      writer.addRow(
          Row.of(
              pinned.table("tide.other").schema().select(List.of("gauge", "level")).struct(),
              "ORR-5",
              5));
      int position = task.read(store).iterator().next().positions()[0];
      lake.apply(pinned.delta().adding(writer.finish()).removing(task, position));
    }
  }

  /** A table of a layout, merges from it and from the table itself, and rows that came too late. */
  @SuppressWarnings("try") // the limits are there while they are open
  private static void fromElsewhere(Lake lake, Table table) {
    Schema schema = Schema.of(Field.of("gauge", Types.text()), Field.of("level", Types.INTEGER));
    Table other = lake.createTable("tide.other", schema);
    other.alter().layout(LayoutPlan.none().rule("list gauge").sortedBy("level")).run();
    try (Append append = other.append(WriteRules::leavingOut)) {
      append.add("ORR-1", -1);
      append.add("ORR-1", 3);
      append.add("ORR-2", 4);
      // So much that its pages have an object of their own, and the schema a page.
      other.alter().check("high", Condition.column("level").atLeast(0)).run();
      try (SmallEntries objects = new SmallEntries(1);
          SmallPages pages = new SmallPages(0, 1)) {
        append.commit();
        other.alter().add(Field.of("note", Types.text())).run();
      }
    }
    other.delete().all().run();
    other.rewind().to(other.now().version() - 1).writerFrom("restarted", 5).run();
    // A merge by which the table grows.
    other
        .merge(MergeSource.named(to -> to.add(Map.of("gauge", "ORR-3", "level", 3, "wind", 4.5))))
        .rules(rules -> rules.with(Drift.GROW))
        .on("gauge", "level")
        .unmatched(Merge.takeAll())
        .run();
    table
        .merge(MergeSource.scan(other.scan().columns("gauge", "level")))
        .on("gauge", "level")
        .unmatched(Merge.takeAll())
        .run();
    table
        .merge(MergeSource.scan(table.scan().where(Condition.column("gauge").equalTo("ORR-9"))))
        .on("gauge", "level")
        .matched(Merge.set(Map.of("more", (row, given) -> 8)))
        .run();
  }

  /** Reads all that any object of the lake belongs to: ledger, histories, versions, rows. */
  private List<String> readEverything() {
    List<String> read = new ArrayList<>();
    try (Lake lake = Lake.open(store, Clock.systemUTC(), 1)) {
      lake.commits(100).forEach(commit -> read.add(commit.toString()));
      for (String name : List.of("tide.readings", "tide.other")) {
        Table table = lake.table(name);
        table.history(100).forEach(record -> read(table.at(record.version()), read));
      }
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
    try (LakeCore core = LakeCore.open(store, new LakeCore.Settings(Clock.systemUTC(), 1))) {
      TableListing listing = core.refresh().page().tables(false, core.pages()).get(0);
      read.add("" + TableHead.read(listing.head(), core.pages()).writer("logger", core.pages()));
    }
    return read;
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
    Map<String, byte[]> objects = new TreeMap<>();
    collect("", objects);
    objects.keySet().retainAll(used.keySet());
    return objects;
  }

  private void collect(String directory, Map<String, byte[]> objects) {
    for (ObjectStore.Child child : store.list(directory, "", 1000)) {
      String name = directory.isEmpty() ? child.segment() : directory + "/" + child.segment();
      if (child.directory()) {
        collect(name, objects);
      } else {
        objects.put(name, store.read(name));
      }
    }
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
