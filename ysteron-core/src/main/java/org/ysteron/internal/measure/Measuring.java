package org.ysteron.internal.measure;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.TableScan;
import org.ysteron.internal.rows.FieldPath;
import org.ysteron.internal.table.StatisticsPage;
import org.ysteron.internal.table.VersionPage;

/** Measures the values of a version's columns in one scan, in memory that does not grow. */
public final class Measuring {
  /** Each takes up to some two hundred kilobytes while it is measured. */
  private static final int MOST_COLUMNS = 200;

  private Measuring() {}

  /**
   * Measures a version.
   *
   * @param paths of the columns; none for all that hold single values
   */
  public static StatisticsPage of(VersionPage table, List<String> paths, ReadContext context) {
    Schema schema = table.schema();
    List<Field> fields = new ArrayList<>();
    if (paths.isEmpty()) {
      FieldPath.leaves(schema).stream().filter(f -> isMeasured(f.type())).forEach(fields::add);
    }
    for (String path : paths) {
      List<Field> along = schema.resolve(path);
      Field field = along.get(along.size() - 1);
      if (!isMeasured(field.type())) {
        throw InvalidInputException.ofColumn(
            path,
            "Column %s is %s; only columns of single values can be measured, such as a field of it."
                .formatted(path, field.type()));
      }
      fields.add(field);
    }
    if (fields.size() > MOST_COLUMNS) {
      throw new InvalidInputException(
          "%d columns of table %s cannot be measured at once; the limit is %d. Name the columns you need."
              .formatted(fields.size(), table.name(), MOST_COLUMNS));
    }
    List<ColumnSketch<?>> sketches = new ArrayList<>();
    fields.forEach(field -> sketches.add(ColumnSketch.of(field)));
    Schema wanted = schema.select(fields.stream().map(f -> schema.pathOf(f.id())).toList());
    List<FieldPath> at = fields.stream().map(f -> FieldPath.of(wanted, f.id())).toList();
    new TableScan(
            context, table, wanted, table.filter(Condition.all(), context.pages()), Long.MAX_VALUE)
        .each(
            batch -> {
              for (int i = 0; i < sketches.size(); i++) {
                sketches.get(i).add(at.get(i).in(batch));
              }
            });
    return new StatisticsPage(
        table.id(),
        table.version(),
        table.record().commit().time(),
        table.record().totals().rows(),
        sketches.stream().map(ColumnSketch::column).toList());
  }

  private static boolean isMeasured(Type type) {
    return !type.isNested() && type != Types.JSON;
  }
}
