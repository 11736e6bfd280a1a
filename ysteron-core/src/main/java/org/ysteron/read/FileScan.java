package org.ysteron.read;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Gather;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Filter;
import org.ysteron.file.DataFileReader;
import org.ysteron.table.TablePage;

/** The rows of one file that pass, in the columns wanted. For one thread. */
final class FileScan implements BatchSource {
  private final ReadContext context;
  private final TablePage table;
  private final ScanPlan.Task task;
  private final Schema wanted;
  private final Filter filter;
  private final boolean narrow;
  private final Schema fetched;
  private DataFileReader reader;

  FileScan(ReadContext context, TablePage table, ScanPlan.Task task, Schema wanted, Filter filter) {
    this.context = context;
    this.table = table;
    this.task = task;
    this.wanted = wanted;
    this.filter = task.filtered() ? filter : Filter.bind(Condition.all(), table.schema());
    this.fetched = task.filtered() ? withTested(table.schema(), wanted, filter) : wanted;
    this.narrow = !fetched.columns().equals(wanted.columns());
  }

  /** The wanted columns and, behind them, the whole columns that the filter tests beside them. */
  private static Schema withTested(Schema schema, Schema wanted, Filter filter) {
    Set<Integer> whole = new LinkedHashSet<>();
    for (Field column : schema.columns()) {
      if (contains(column, filter)) {
        whole.add(column.id());
      }
    }
    List<Field> fields = new ArrayList<>();
    for (Field column : wanted.columns()) {
      Field full = schema.field(column.id()).orElseThrow();
      fields.add(whole.remove(column.id()) ? full : column);
    }
    for (int id : whole) {
      fields.add(schema.field(id).orElseThrow());
    }
    return Schema.stored(fields, List.of(), schema.lastId());
  }

  private static boolean contains(Field field, Filter filter) {
    if (filter.columns().containsKey(field.id())) {
      return true;
    }
    return field.type() instanceof Type.Struct struct
        && struct.fields().stream().anyMatch(inner -> contains(inner, filter));
  }

  @Override
  public Optional<Batch> next() {
    try {
      return read();
    } catch (DamagedException e) {
      throw new DamagedException(
          "Table %s, version %d, file %d: %s"
              .formatted(
                  table.name(), table.version(), task.entry().numbers().number(), e.getMessage()),
          e);
    }
  }

  private Optional<Batch> read() {
    if (reader == null) {
      reader =
          new DataFileReader(
              context.store(),
              task.file(),
              table.id(),
              fetched.struct(),
              filter,
              context.footers());
    }
    while (true) {
      Optional<Batch> batch = reader.next();
      if (batch.isEmpty() || !task.filtered()) {
        return batch;
      }
      Batch selected = select(batch.get());
      if (selected.size() > 0) {
        return Optional.of(selected);
      }
    }
  }

  private Batch select(Batch batch) {
    Batch passing = Gather.select(batch, filter.select(batch));
    if (!narrow) {
      return passing;
    }
    List<Vector> vectors = new ArrayList<>();
    for (int i = 0; i < wanted.columns().size(); i++) {
      vectors.add(narrow(passing.vectors().get(i), wanted.columns().get(i).type()));
    }
    return new Batch(wanted.struct(), passing.size(), vectors);
  }

  /** Takes the fields of a struct away that were read for the filter only. */
  private static Vector narrow(Vector vector, Type type) {
    if (vector.type().equals(type) || !(vector instanceof Vector.OfStruct struct)) {
      return vector;
    }
    Type.Struct full = (Type.Struct) struct.type();
    List<Vector> inner = new ArrayList<>();
    for (Field field : ((Type.Struct) type).fields()) {
      int at = full.indexOf(field.name());
      inner.add(narrow(struct.fields().get(at), field.type()));
    }
    return new Vector.OfStruct(type, struct.size(), inner, struct.nulls());
  }

  @Override
  public void close() {
    if (reader != null) {
      reader.close();
    }
  }
}
