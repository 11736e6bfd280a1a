package org.ysteron.data;

import java.util.AbstractList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.text.NearNames;

/**
 * Rows of a table, stored by column. Immutable by agreement, see {@link Vector}.
 *
 * @param columns the columns' fields
 * @param size how many rows
 * @param vectors one per column, each with {@code size} values
 */
public record Batch(Type.Struct columns, int size, List<Vector> vectors) {
  public Batch {
    vectors = List.copyOf(vectors);
    if (columns.fields().size() != vectors.size()) {
      throw new InvalidInputException(
          "A batch needs one vector per column; it has %d columns and %d vectors."
              .formatted(columns.fields().size(), vectors.size()));
    }
    for (Vector vector : vectors) {
      if (vector.size() != size) {
        throw new InvalidInputException(
            "All vectors of a batch have one value per row; a vector has %d values for %d rows."
                .formatted(vector.size(), size));
      }
    }
  }

  /** The vector of a column by name. */
  public Vector vector(String name) {
    int at = columns.indexOf(name);
    if (at < 0) {
      List<String> names = columns.fields().stream().map(Field::name).toList();
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          name,
          "The batch has no column %s.%s".formatted(name, NearNames.didYouMean(name, names)));
    }
    return vectors.get(at);
  }

  /** One row, as a view on this batch. */
  public Row row(int index) {
    return new Row() {
      @Override
      public List<Field> fields() {
        return columns.fields();
      }

      @Override
      public @Nullable Object get(int position) {
        return vectors.get(checked(position, vectors.size())).get(index);
      }
    };
  }

  /** All rows, as views on this batch. */
  public List<Row> rows() {
    return new AbstractList<>() {
      @Override
      public Row get(int index) {
        return row(index);
      }

      @Override
      public int size() {
        return size;
      }
    };
  }
}
