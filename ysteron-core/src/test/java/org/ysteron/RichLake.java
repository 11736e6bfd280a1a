package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.SmallEntries;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.SmallPages;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Drift;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.WriteRules;
import org.ysteron.report.TableVersion;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;

/** A small lake that has everything in it. */
final class RichLake {
  private RichLake() {}

  static void make(ObjectStore store) {
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.threads(1))) {
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
        inside.alter().add(Field.of("more", Types.INTEGER).withDefault(Computed.later(7))).run();
        work.commit();
      }
      table.openWriter("logger").append(1, rows -> rows.add("ORR-1", 5, null, 7));
      fromElsewhere(lake, table);
      fromOthers(lake, store);
      for (int level = 8; level < 10; level++) {
        try (Append append = lake.table("tide.other").append()) {
          append.add("ORR-2", level, null, null);
          append.commit();
        }
      }
      assertThat(lake.table("tide.other").compact().full().run().commits()).isNotEmpty();
      assertThat(table.measure().columns()).hasSize(3);
      letGo(lake, table);
      LayoutPlan curve = LayoutPlan.none().along("gauge", "level");
      lake.table("tide.other").alter().layout(curve).run();
      erase(lake);
    }
    beginToErase(store);
  }

  /** Rows go from all versions; files, versions and entries say so. */
  private static void erase(Lake lake) {
    Condition some = Condition.column("level").equalTo(3);
    assertThat(lake.table("tide.readings").erase(some).includingBookmarks().run().rows())
        .isPositive();
    assertThat(lake.table("tide.readings").history(9)).anyMatch(TableVersion::isRedacted);
  }

  /** Somebody is killed once he has begun. */
  private static void beginToErase(ObjectStore store) {
    Condition some = Condition.column("level").equalTo(5);
    KilledStore.workUntil(
        store,
        lake -> lake.table("tide.readings").erase(some).includingBookmarks().run(),
        lake -> !lake.health().erasures().isEmpty());
  }

  /** Some versions expire, some are named; what is kept is copied, and the rest swept. */
  @SuppressWarnings("try") // the limits are there while they are open
  private static void letGo(Lake lake, Table table) {
    table.bookmark("noted", 2);
    lake.setPosition("bulletin", "tide.readings", "tide.other");
    lake.setPosition("late", Map.of("tide.readings", 3L), Duration.ofDays(90));
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

  /** A staged change that others have prepared with the store alone. */
  private static void fromOthers(Lake lake, ObjectStore store) {
    LakeView pinned = lake.now();
    ScanTask task = pinned.table("tide.other").scan().tasks().get(0);
    try (RowWriter writer = pinned.writeTask("tide.other").open(store, 0)) {
      writer.addRow(
          Row.of(
              pinned.table("tide.other").schema().select(List.of("gauge", "level")).struct(),
              "ORR-5",
              5));
      int position = task.read(store).iterator().next().positions()[0];
      lake.apply(pinned.stagedChange().adding(writer.finish()).removing(task, position));
    }
    // A row in a new form that was staged, in a transaction that removes others by condition.
    try (Transaction work = lake.begin()) {
      ScanTask found = work.start().table("tide.other").scan().tasks().get(0);
      LocatedBatch first = found.read(store).iterator().next();
      try (RowWriter writer = work.writeTask("tide.other").openForChanges(store, 0)) {
        writer.addChanged(Gather.first(first.rows(), 1), first.serials()[0]);
        work.apply(
            work.start()
                .stagedChange()
                .adding(writer.finish())
                .removing(found, first.positions()[0])
                .removing(found.table(), Condition.column("level").equalTo(-7), found.schema())
                .as("staged update"));
      }
      work.commit();
    }
  }

  /** A table of a layout, merges from it and from the table itself, and rows that came too late. */
  @SuppressWarnings("try") // the limits are there while they are open
  private static void fromElsewhere(Lake lake, Table table) {
    Schema schema = Schema.of(Field.of("gauge", Types.text()), Field.of("level", Types.INTEGER));
    Table other = lake.createTable("tide.other", schema);
    other.alter().layout(LayoutPlan.none().rule("list gauge").sortedBy("level")).run();
    try (Append append = other.append(WriteRules::skippingRejected)) {
      append.add("ORR-1", -1);
      append.add("ORR-1", 3);
      append.add("ORR-2", 4);
      // So much that its pages have an object of their own, and the schema a page.
      other.alter().check("high", Condition.column("level").plus(1).atLeast(1)).run();
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
        .merge(
            MergeSource.named(
                to -> to.addObject(Map.of("gauge", "ORR-3", "level", 3, "wind", 4.5))))
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
        .matched(Merge.setBy(Map.of("more", (row, given) -> 8)))
        .run();
  }
}
