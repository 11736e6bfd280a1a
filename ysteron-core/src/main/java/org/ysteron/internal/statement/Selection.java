package org.ysteron.internal.statement;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * Which rows a change is of. Immutable.
 *
 * @param said whether anything was said of them; else it is none, rather than all
 * @param condition they pass this condition
 * @param test and this test, which is asked for every row that passes the condition
 * @param serials and have one of these serials; empty for any
 */
public record Selection(
    Said said, Condition condition, Optional<Predicate<Row>> test, Optional<Set<Long>> serials) {
  /** What was said of the rows. */
  public enum Said {
    NOTHING,
    SOME,
    ALL
  }

  /** Not said yet. */
  public static final Selection UNTOLD =
      new Selection(Said.NOTHING, Condition.all(), Optional.empty(), Optional.empty());

  /** All rows. */
  public static final Selection ALL =
      new Selection(Said.ALL, Condition.all(), Optional.empty(), Optional.empty());

  /**
   * All rows, when nothing else was said of them.
   *
   * @throws InvalidInputException when they were told before
   */
  public Selection all() {
    if (said == Said.SOME) {
      throw new InvalidInputException(
          "The statement has both a condition and all(). Use one of them; nothing was changed.");
    }
    return ALL;
  }

  private void refuseAfterAll() {
    if (said == Said.ALL) {
      throw new InvalidInputException(
          "The statement has both all() and a condition. Use one of them; nothing was changed.");
    }
  }

  /** Those of these for which a condition is true. */
  public Selection where(Condition also) {
    refuseAfterAll();
    return new Selection(Said.SOME, condition.and(also), test, serials);
  }

  /** Those of these that pass a test. */
  public Selection whereRow(Predicate<Row> rowTest) {
    refuseAfterAll();
    Predicate<Row> both = test.map(before -> before.and(rowTest)).orElse(rowTest);
    return new Selection(Said.SOME, condition, Optional.of(both), serials);
  }

  /** Those of these with some serials. */
  public Selection whereSerial(Set<Long> these) {
    refuseAfterAll();
    return new Selection(Said.SOME, condition, test, Optional.of(Set.copyOf(these)));
  }

  /**
   * Sees to it that something was said of the rows.
   *
   * @param verb what would be done to them all, such as {@code delete}
   */
  public Selection told(String verb, String table) {
    if (said == Said.NOTHING) {
      throw new InvalidInputException(
          "The statement on table %s does not say which rows to %s. Give a condition, or call all() for every row; nothing was changed."
              .formatted(table, verb));
    }
    return this;
  }

  /** The same with CURRENT_TIMESTAMP as a literal. */
  public Selection at(java.time.Instant now) {
    return new Selection(said, condition.at(now), test, serials);
  }

  /** Whether rows are told by their serials alone, which nobody else gives to a row. */
  boolean isBySerial() {
    return serials.isPresent() && test.isEmpty() && condition.equals(Condition.all());
  }

  /**
   * Sees to it that rows that were told by their serials alone are there.
   *
   * @throws NotFoundException when one is not
   */
  void checkFound(String table, long rows) {
    if (isBySerial() && rows < serials.get().size()) {
      throw new NotFoundException(
          NotFoundException.Kind.ROW,
          table,
          "Table %s has only %d of the %d rows with these serials: %s. Nothing was changed."
              .formatted(
                  table,
                  rows,
                  serials.get().size(),
                  NearNames.list(serials.get().stream().sorted().map(String::valueOf).toList())));
    }
  }

  Filter filter(VersionPage table, PageStore pages) {
    return table.filter(condition, pages);
  }

  /** Whether every row of a file that counts is selected, so that none needs to be read. */
  boolean isWhole(ScanPlan.Task task) {
    return !task.filtered() && test.isEmpty() && serials.isEmpty();
  }

  /** Takes a file, and the positions of those of its rows that are selected; null for all. */
  @FunctionalInterface
  public interface FileVisitor {
    void file(FileEntry file, RoaringBitmap positions);
  }

  /**
   * Visits the files that have selected rows.
   *
   * @return what was read
   */
  public Read find(TableChange table, String what, FileVisitor visitor) {
    Filter filter = filter(table.draft(), table.context().pages());
    Watch.Step step = table.context().watch().step(what, Progress.Unit.FILES);
    each(table.context(), table.draft(), filter, step, visitor);
    return new Read(filter, Optional.empty(), Read.Kind.CHANGED_ROWS);
  }

  /**
   * Visits the files of a version that have selected rows. Reads no columns but those that are
   * tested, of no file of which every row is selected.
   */
  void each(
      ReadContext context, VersionPage table, Filter filter, Watch.Step step, FileVisitor visitor) {
    new Visit(context, table, filter, step, visitor).run();
  }

  /** A visit of files in the order of the table, some of which are read ahead. */
  private final class Visit {
    private final ReadContext context;
    private final VersionPage table;
    private final Filter filter;
    private final ScanPlan plan;
    private final Watch.Step step;
    private final FileVisitor visitor;
    private final Optional<Roaring64Bitmap> wanted;
    private final Deque<Planned> planned = new ArrayDeque<>();

    /** A file that is to come; of one that is read, the rows that were found so far. */
    private record Planned(FileEntry file, RoaringBitmap positions) {}

    Visit(
        ReadContext context,
        VersionPage table,
        Filter filter,
        Watch.Step step,
        FileVisitor visitor) {
      this.context = context;
      this.table = table;
      this.filter = filter;
      this.plan = new ScanPlan(table, filter, context);
      this.step = step;
      this.visitor = visitor;
      this.wanted =
          serials.map(
              these -> {
                Roaring64Bitmap all = new Roaring64Bitmap();
                these.forEach(all::addLong);
                return all;
              });
    }

    void run() {
      Schema columns = test.isPresent() ? table.schema() : leastColumns(table.schema(), filter);
      FilesScan.of(context, this::nextRead, columns, filter).each(this::take);
      visitUntil(-1);
    }

    /** The next file that has to be read; those before it are planned. */
    private Optional<FilesScan.Part> nextRead() {
      for (Optional<ScanPlan.Task> task = plan.next(); task.isPresent(); task = plan.next()) {
        FileEntry file = task.get().entry();
        RoaringBitmap among =
            wanted
                .map(these -> new SerialFinder(context, table).positions(file, these))
                .orElse(null);
        boolean isRead =
            !isWhole(task.get()) && !isBySerial() && (among == null || !among.isEmpty());
        planned.add(
            new Planned(file, isRead ? new RoaringBitmap() : isWhole(task.get()) ? null : among));
        if (isRead) {
          return Optional.of(new FilesScan.Part(task.get(), among));
        }
      }
      return Optional.empty();
    }

    private void take(FileRows rows) {
      visitUntil(rows.file().numbers().number());
      Batch batch = rows.rows();
      RoaringBitmap positions = planned.element().positions;
      for (int i = 0; i < rows.size(); i++) {
        if (test.isEmpty() || test.get().test(batch.row(i))) {
          positions.add(rows.position(i));
        }
      }
    }

    /** Visits the planned files before one, by its number. */
    private void visitUntil(long number) {
      while (!planned.isEmpty() && planned.element().file.numbers().number() != number) {
        Planned done = planned.remove();
        if (done.positions == null || !done.positions.isEmpty()) {
          visitor.file(done.file, done.positions);
        }
        step.add(1);
      }
    }
  }

  /** One column, which is tested if any is. */
  private static Schema leastColumns(Schema schema, Filter filter) {
    Field least =
        schema.columns().stream().filter(filter::tests).findFirst().orElse(schema.columns().get(0));
    return Schema.stored(List.of(least), List.of(), schema.lastId());
  }
}
