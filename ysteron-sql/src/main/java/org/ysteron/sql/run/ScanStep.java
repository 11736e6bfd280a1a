package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.Scan;
import org.ysteron.TableView;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.FieldOf;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows of a table that pass a condition.
 *
 * @param scan what is read
 * @param table the table
 * @param condition which of its rows are read; empty for all
 * @param noted whether a transaction notes what is read, so that metadata may not answer for it
 * @param counted whether only the number of rows is wanted, and no column of them
 * @param columns those of the scan, which finds them anew each time
 * @param expected about how many rows there are; -1 when nothing is known
 */
public record ScanStep(
    Scan scan,
    TableView table,
    Optional<Condition> condition,
    boolean noted,
    boolean counted,
    Schema columns,
    double expected)
    implements Step {
  private static final int MOST_ROWS = 1 << 20;

  private static final int PLACE_COLUMNS = 2;

  /** All rows of a table. */
  public static ScanStep of(TableView table) {
    return of(table, table.scan(), table.isOfTransaction());
  }

  /** All rows of a table, read by a scan that tells where they are, in its last two columns. */
  public static ScanStep located(TableView table, Scan scan) {
    return of(table, scan, true);
  }

  private static ScanStep of(TableView table, Scan scan, boolean noted) {
    return new ScanStep(scan, table, Optional.empty(), noted, false, scan.schema(), -1);
  }

  private boolean isLocated() {
    return scan.isLocated();
  }

  /** Whether only some of the rows are read. */
  public boolean filtered() {
    return condition.isPresent();
  }

  /** The same, of which about so many rows are expected. */
  public ScanStep expecting(double rows) {
    return new ScanStep(scan, table, condition, noted, counted, columns, rows);
  }

  /** The same with these columns alone; with none as many rows. */
  public ScanStep reading(List<String> paths) {
    if (isLocated()) {
      return readingPlaces(paths);
    }
    if (paths.isEmpty()) {
      return new ScanStep(scan, table, condition, noted, true, Schema.NO_COLUMNS, expected);
    }
    Scan some = scan.columns(paths);
    return new ScanStep(some, table, condition, noted, false, some.schema(), expected);
  }

  /** The same with these columns of the table, one at least, and where rows are. */
  private ScanStep readingPlaces(List<String> paths) {
    List<Field> all = scan.schema().columns();
    Set<String> places = new HashSet<>();
    all.subList(all.size() - PLACE_COLUMNS, all.size())
        .forEach(place -> places.add(Schema.path(List.of(place.name()))));
    List<String> read = paths.stream().filter(path -> !places.contains(path)).toList();
    Scan some =
        scan.columns(read.isEmpty() ? List.of(Schema.path(List.of(all.get(0).name()))) : read);
    return new ScanStep(some, table, condition, noted, false, some.schema(), expected);
  }

  /** The same where a condition is true. */
  public ScanStep where(Condition tested) {
    Condition also = (Condition) byPath(tested);
    Condition both = condition.map(one -> one.and(also)).orElse(also);
    return new ScanStep(scan.where(also), table, Optional.of(both), noted, counted, columns, -1);
  }

  /** An expression in which a field of a column is a column, too, so that no other is read. */
  public static Expression byPath(Expression expression) {
    return expression.each(
        part ->
            part instanceof FieldOf field && field.of() instanceof Column column
                ? new Column(column.path() + "." + Schema.path(List.of(field.name())))
                : part);
  }

  /** The paths of what is read: of a struct that is not read as a whole those of its fields. */
  public List<String> paths() {
    List<String> paths = new ArrayList<>();
    columns.columns().forEach(column -> add(paths, column, ""));
    return paths;
  }

  private void add(List<String> paths, Field read, String before) {
    String path = before + Schema.path(List.of(read.name()));
    if (read.type() instanceof Type.Struct some && !some.equals(table.schema().find(path).type())) {
      some.fields().forEach(inner -> add(paths, inner, path + "."));
    } else {
      paths.add(path);
    }
  }

  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return counted ? new Count(scan) : rows(scan.selectedBatches());
  }

  /** The rows of a scan, or of a part of it. */
  static Source<SelectedBatch> rows(Results<SelectedBatch> results) {
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return results.next();
      }

      @Override
      public void close() {
        results.close();
      }
    };
  }

  /** As many rows without columns as there are. */
  private static final class Count implements Source<SelectedBatch> {
    private final Scan scan;
    private long left = -1;

    Count(Scan scan) {
      this.scan = scan;
    }

    @Override
    public Optional<SelectedBatch> next() {
      left = left < 0 ? scan.count() : left;
      int size = (int) Math.min(left, MOST_ROWS);
      left -= size;
      return size == 0
          ? Optional.empty()
          : Optional.of(
              new SelectedBatch(
                  new Batch(Schema.NO_COLUMNS.struct(), size, List.of()), null, size));
    }

    @Override
    public void close() {}
  }
}
