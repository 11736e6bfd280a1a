package org.ysteron;

import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.rows.RowForms;

/** Takes the rows of a merge's source. For one thread. */
abstract class SourceSink implements RowSink {
  private final List<Field> columns;
  private final Type.Struct struct;
  private final RowForms forms;

  private SourceSink(List<Field> columns) {
    this.columns = columns;
    this.struct = new Type.Struct(columns);
    this.forms = new RowForms(struct);
  }

  /** Hands on the values of some columns, in their order. */
  static RowSink ofValues(List<Field> columns, Consumer<@Nullable Object[]> target) {
    return new SourceSink(columns) {
      @Override
      public RowSink add(@Nullable Object... values) {
        target.accept(values);
        return this;
      }

      @Override
      public RowSink addRow(Row row) {
        return add(inOrder(row));
      }

      @Override
      public RowSink addObject(Map<String, @Nullable Object> members) {
        return addRow(forms().row(members));
      }

      @Override
      public RowSink addText(TextRow row) {
        return addRow(forms().row(row));
      }
    };
  }

  /** Hands on rows as they are: {@link Row}, {@link Map} or {@link TextRow}. */
  static RowSink named(List<Field> columns, Consumer<Object> target) {
    return new SourceSink(columns) {
      @Override
      public RowSink add(@Nullable Object... values) {
        return addRow(Row.of(struct(), values));
      }

      @Override
      public RowSink addRow(Row row) {
        target.accept(row);
        return this;
      }

      @Override
      public RowSink addRecord(Record record) {
        return addRow(forms().row(record)); // what it lacks stays as it is in rows that match
      }

      @Override
      public RowSink addObject(Map<String, @Nullable Object> members) {
        target.accept(members);
        return this;
      }

      @Override
      public RowSink addText(TextRow row) {
        target.accept(row);
        return this;
      }
    };
  }

  Type.Struct struct() {
    return struct;
  }

  RowForms forms() {
    return forms;
  }

  /** The values of a row that has no other columns; null for those that it lacks. */
  @Nullable Object[] inOrder(Row row) {
    @Nullable Object[] values = new Object[columns.size()];
    for (int i = 0; i < row.fields().size(); i++) {
      String name = row.fields().get(i).name();
      int at = struct.indexOf(name);
      if (at < 0) {
        throw InvalidInputException.ofColumn(
            name,
            "A row of the source has the column %s, which is not one of the source's columns: %s. Nothing was changed."
                .formatted(name, String.join(", ", columns.stream().map(Field::name).toList())));
      }
      values[at] = row.get(i);
    }
    return values;
  }

  @Override
  public RowSink addRecord(Record record) {
    return add(forms.values(record));
  }

  @Override
  public RowSink addBatch(Batch batch) {
    batch.rows().forEach(this::addRow);
    return this;
  }
}
