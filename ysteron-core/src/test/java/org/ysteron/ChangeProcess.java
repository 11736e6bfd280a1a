package org.ysteron;

import static org.ysteron.expr.Condition.column;

import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.upkeep.SmallExpiries;
import org.ysteron.maintenance.Sweep;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.Check;
import org.ysteron.option.Drift;
import org.ysteron.option.Isolation;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.Retention;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.store.LocalStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.StagedChange;

/**
 * A process that changes table t.x again and again and says what was committed. But for the named
 * writer, the table has a hundred rows, all with the number of the last change.
 */
final class ChangeProcess {
  static final int ROWS = 100;

  private ChangeProcess() {}

  private static final Type.Struct GROWING =
      new Type.Struct(
          List.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.INTEGER),
              Field.of("more", Types.BIGINT)));

  /** Takes the lake, the kind of change, and the number to start with. */
  public static void main(String[] arguments) {
    try (Lake lake = Lake.open(Path.of(arguments[0]))) {
      Table table = lake.table("t.x");
      NamedWriter writer = arguments[1].equals("named") ? table.openWriter("w") : null;
      System.out.println("ready");
      for (int n = Integer.parseInt(arguments[2]); ; n++) {
        long number = writer == null ? n : writer.lastApplied() + 1;
        change(lake, table, writer, arguments[1], (int) number);
        System.out.println("committed " + number);
      }
    }
  }

  @SuppressWarnings("try")
  private static void change(Lake lake, Table table, NamedWriter writer, String kind, int n) {
    ChangeStyle style = n % 2 == 0 ? ChangeStyle.MASK : ChangeStyle.REWRITE;
    switch (kind) {
      case "update" -> {
        // One row stays behind for a moment, so that masks and rewrites have something left.
        try (Transaction work = lake.begin()) {
          work.table("t.x")
              .update()
              .where(column("k").greaterThan(0))
              .set("v", n)
              .style(style)
              .run();
          work.table("t.x").update().where(column("k").equalTo(0)).set("v", n).style(style).run();
          work.commit();
        }
      }
      case "delete" -> {
        try (Transaction work = lake.begin()) {
          work.table("t.x").delete().where(column("k").greaterThan(5)).style(style).run();
          work.table("t.x").delete().all().style(style).run();
          for (int k = 0; k < ROWS; k++) {
            work.table("t.x").add(k, n);
          }
          work.commit();
        }
      }
      case "upsert" -> table.upsert(rows(0, n)).style(style).run();
      case "merge" ->
          table
              .merge(rows(n % 50, n))
              .matched(Merge.take("v"))
              .unmatched(Merge.takeAll())
              .notInSource(Merge.delete())
              .style(style)
              .run();
      case "expire" -> {
        table.update().all().set("v", n).style(style).run();
        lake.createTableIfAbsent("t.e", table.schema());
        if (n % 3 == 0) {
          lake.findTable("t.f").ifPresent(there -> lake.dropTable("t.f"));
          lake.renameTable("t.e", "t.f");
        }
        try (SmallExpiries one = new SmallExpiries(1)) {
          lake.expire().keeping(Retention.EVERYTHING.andNewest(n % 2 == 0 ? 2 : 5)).run();
        }
        lake.bookmark("at" + n);
        if (lake.bookmarks().size() > 3) {
          lake.dropBookmark(lake.bookmarks().get(0).name());
        }
        lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).dryRun();
      }
      case "sweep" -> {
        table.update().all().set("v", n).style(style).run();
        table.expire().keeping(Retention.EVERYTHING.andNewest(2)).run();
        Sweep sweep = n % 3 == 0 ? lake.sweep().now() : lake.sweep().now().withEntries();
        sweep.run();
        sweep.dryRun();
      }
      case "erase" -> {
        table.update().all().set("v", n).style(style).run();
        // Which one was interrupted is known by trying.
        for (int m = n; !lake.health().erasures().isEmpty(); m--) {
          erase(table, m);
        }
        erase(table, n - 1);
      }
      case "measure" -> {
        table.update().all().set("v", n).style(style).run();
        if (table.dryRun().delete().all().run().report().rowsDeleted() != ROWS) {
          throw new IllegalStateException("not all rows would have been deleted");
        }
        if (table.measure("v").columns().get(0).distinct() != 1) {
          throw new IllegalStateException("more than one value was measured");
        }
      }
      case "compact" -> {
        // All rows with their numbers, in files of a few rows each, packed while others are masked.
        try (Transaction work = lake.begin()) {
          work.table("t.x").update().all().set("v", n).style(style).run();
          work.commit();
        }
        for (int k = 0; k < 3; k++) {
          table
              .update()
              .where(column("k").between(9 * k, 9 * k + 5))
              .set("v", n)
              .style(style)
              .run();
        }
        table.compact().full().run();
      }
      case "rewrite" -> {
        // Every other time packed in the same commit as the change, else in one of its own.
        try (Transaction work = lake.begin()) {
          work.table("t.x").update().all().set("v", n).style(style).run();
          if (n % 2 == 0) {
            work.table("t.x").rewrite().run();
          }
          work.commit();
        }
        table.rewrite().among(file -> file.numbers().number() % 3 != 0).run();
      }
      case "alter" -> {
        try (Transaction work = lake.begin()) {
          Alter alter = work.table("t.x").alter();
          alter = n > 1 ? alter.drop("c" + (n - 1)) : alter;
          alter
              .add(Field.of("c" + n, Types.INTEGER).withDefault(n % 2 == 0 ? n : Computed.later(n)))
              .layout(LayoutPlan.none().rule("range k every " + (1 + n % 40)))
              .run();
          work.table("t.x").update().all().set("v", n).style(style).run();
          work.commit();
        }
      }
      case "self" ->
          table
              .merge(MergeSource.scan(table.scan()))
              .matched(
                  Column.ofSource("v").plus(1).greaterThan(column("v")),
                  Merge.set(Map.of("v", Column.ofSource("v").plus(1))))
              .style(style)
              .run();
      case "copy" -> {
        lake.table("t.y").upsert(rows(0, n)).style(style).run();
        table.upsert(MergeSource.scan(lake.table("t.y").scan())).style(style).run();
      }
      case "grow" ->
          // Some rows have a column more with each change, the others wait behind them.
          table
              .upsert(
                  MergeSource.named(
                      to -> {
                        for (int k = 0; k < ROWS; k++) {
                          to.addObject(
                              k % 2 == 0
                                  ? Map.of("k", k, "v", n, "c" + n % 20, k)
                                  : Map.of("v", n, "k", k));
                        }
                      }))
              .rules(rules -> rules.with(Drift.GROW))
              .style(style)
              .run();
      case "regrow" -> {
        try (Transaction work = lake.begin()) {
          TransactionTable inside = work.table("t.x");
          inside.alter().set(TableSettings.DRIFT, Drift.GROW.word()).run();
          inside.delete().all().style(style).run();
          for (int k = 0; k < ROWS; k++) {
            inside.addRow(Row.of(GROWING, k, n, k + 3_000_000_000L));
          }
          inside.alter().drop("more").run();
          work.commit();
        }
      }
      case "shared" -> {
        // Rows come twice where no key is tested; the old ones go by their serials.
        try (Transaction work = lake.begin()) {
          work.table("t.x").alter().set(TableSettings.KEY_TEST, "declared").run();
          for (int k = 0; k < ROWS; k++) {
            work.table("t.x").add(k, n);
          }
          work.table("t.x").delete().where(column("v").lessThan(n)).style(style).run();
          work.commit();
        }
        table.alter().set(TableSettings.KEY_TEST, "exact").run();
      }
      case "rewind" -> {
        long before = table.now().version();
        try (Transaction work = lake.begin()) {
          work.table("t.x").rewind().to(Math.max(1, before - n % 3)).run();
          work.table("t.x").update().all().set("v", n).style(style).run();
          work.commit();
        }
        table.rewind().to(before).run(); // there and back again
        table.rewind().to(before + 1).run();
      }
      case "staged update" -> {
        LocalStore store = LocalStore.existing(Path.of(lake.location()));
        LakeView pinned = lake.now();
        StagedChange update =
            StagedWork.updating(pinned, "t.x", store, Condition.all(), k -> true, "v", k -> n);
        StagedChange again = update.by(table.id(), writer.name(), writer.session(), n);
        lake.apply(again.as("update"));
        lake.apply(again); // does nothing, though it is another change
        try (Transaction work = lake.begin()) {
          work.table("t.x")
              .change(
                  "update",
                  style,
                  false,
                  rows -> StagedWork.update(rows, column("k").lessThan(5), "v", k -> n));
          work.commit();
        }
        try (Transaction work = lake.begin()) {
          StagedChange all = StagedWork.removing(work.start(), "t.x", Condition.all());
          try (RowWriter rows = work.writeTask("t.x").open(store, 0)) {
            for (int k = 0; k < ROWS; k++) {
              rows.add(k, n);
            }
            work.apply(all.adding(rows.finish()));
          }
          work.commit();
        }
      }
      case "staged change" -> {
        LakeView pinned = lake.now();
        StagedChange stagedChange = pinned.stagedChange();
        LocalStore store = LocalStore.existing(Path.of(lake.location()));
        for (ScanTask task : pinned.table("t.x").scan().tasks()) {
          for (LocatedBatch batch : task.read(store)) {
            stagedChange = stagedChange.removing(task, batch.positions());
          }
        }
        try (RowWriter rows = pinned.writeTask("t.x").open(store, 1)) {
          for (int k = 0; k < ROWS; k++) {
            rows.add(k, n);
          }
          stagedChange = stagedChange.adding(rows.finish());
        }
        lake.apply(stagedChange);
        lake.apply(stagedChange); // does nothing
      }
      case "position" -> {
        if (lake.positions().isEmpty()) {
          lake.setPosition("copy", Map.of("t.x", 0L), Duration.ofDays(1));
        }
        table.update().all().set("v", n).style(style).run();
        if (n % 3 == 0) {
          table.compact().full().run();
          lake.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
        }
        lake.runInTransaction(Isolation.SERIALIZABLE, ChangeProcess::copy);
      }
      case "refused" -> refused(lake, n, style);
      case "late" -> {
        for (Check check : table.now().page().form().checks()) { // of a process that was killed
          table.alter().dropCheck(check.name()).run();
        }
        try (Append append = table.append(WriteRules::skippingRejected)) {
          append.add(ROWS, n + ROWS);
          table.alter().check("c" + n, column("k").times(2).lessThan(2 * ROWS)).run();
          append.commit();
        }
        table.update().all().set("v", column("k").minus(column("k")).plus(n)).style(style).run();
      }
      default -> writer.append(n, rows -> rows.add(n, n));
    }
  }

  /** Does what happened to t.x to t.y. */
  private static void copy(Transaction work) {
    ReaderPosition position = work.position("copy");
    TransactionTable copy = work.table("t.y");
    List<Object> gone = new ArrayList<>();
    List<Row> come = new ArrayList<>();
    for (ChangedRow row : position.changes("t.x").rows()) {
      if (row.before() != null) {
        gone.add(row.before().get("k"));
      }
      if (row.after() != null) {
        come.add(row.after());
      }
    }
    if (!gone.isEmpty()) {
      copy.delete().where(column("k").in(gone)).run();
    }
    come.forEach(copy::addRow);
    position.move();
  }

  /** Takes what rows were before out of all versions. */
  private static void erase(Table table, int below) {
    try {
      table.erase(column("v").lessThan(below)).run();
    } catch (NotFoundException | InvalidInputException e) {
      return; // there are none, or others are meant
    }
  }

  /** All rows anew, in a transaction that goes on after what is refused. */
  private static void refused(Lake lake, int n, ChangeStyle style) {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      refuse(() -> inside.update().all().set("v", "no number").run());
      inside.delete().all().style(style).run();
      for (int k = 0; k < ROWS; k++) {
        inside.add(k, n);
        refuse(() -> inside.add("no number", n));
      }
      refuse(() -> inside.alter().check("none", column("v").lessThan(n)).run());
      work.commit();
    }
  }

  private static void refuse(Runnable statement) {
    try {
      statement.run();
    } catch (InvalidInputException e) {
      return;
    }
    throw new IllegalStateException("what cannot be done was");
  }

  private static MergeSource rows(int first, int n) {
    return MergeSource.values(
        List.of("k", "v"),
        to -> {
          for (int k = first; k < first + ROWS; k++) {
            to.add(new Object[] {k, n});
          }
        });
  }
}
