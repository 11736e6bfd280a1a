package org.ysteron.internal.statement;

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
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.read.SerialFinder;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.tree.PageStore;

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

  /** The positions of a file's selected rows; reads no columns but those that are tested. */
  RoaringBitmap positions(
      ReadContext context, VersionPage table, ScanPlan.Task task, Filter filter) {
    RoaringBitmap positions = new RoaringBitmap();
    RoaringBitmap among = null;
    if (serials.isPresent()) {
      Roaring64Bitmap wanted = new Roaring64Bitmap();
      serials.get().forEach(wanted::addLong);
      among = new SerialFinder(context, table).positions(task.entry(), wanted);
      if (among.isEmpty() || isBySerial()) {
        return among;
      }
    }
    Schema columns = test.isPresent() ? table.schema() : leastColumns(table.schema(), filter);
    try (FileScan scan = new FileScan(context, task, columns, filter)) {
      Optional<Batch> batch = scan.next();
      while (batch.isPresent()) {
        for (int i = 0; i < batch.get().size(); i++) {
          if (test.isEmpty() || test.get().test(batch.get().row(i))) {
            positions.add(scan.position(i));
          }
        }
        batch = scan.next();
      }
    }
    if (among != null) {
      positions.and(among);
    }
    return positions;
  }

  /** One column, which is tested if any is. */
  private static Schema leastColumns(Schema schema, Filter filter) {
    Field least =
        schema.columns().stream()
            .filter(column -> isTested(column, filter))
            .findFirst()
            .orElse(schema.columns().get(0));
    return Schema.stored(List.of(least), List.of(), schema.lastId());
  }

  private static boolean isTested(Field field, Filter filter) {
    return filter.columns().containsKey(field.id())
        || (field.type() instanceof Type.Struct struct
            && struct.fields().stream().anyMatch(inner -> isTested(inner, filter)));
  }
}
