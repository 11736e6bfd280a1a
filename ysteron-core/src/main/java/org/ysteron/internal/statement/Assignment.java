package org.ysteron.internal.statement;

import java.util.function.Function;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.rows.RowText;

/**
 * The new value of a column.
 *
 * @param column the column's name
 * @param value its value, from the row as it was
 * @param same whether it is the same for all rows, so that no row is looked at
 */
public record Assignment(String column, Function<Row, Object> value, boolean same) {

  /** A value that may be another for each row. */
  public Assignment(String column, Function<Row, Object> value) {
    this(column, value, false);
  }

  /** A value that is the same for all rows; text in the form of {@link ValueText} is parsed. */
  public static Assignment constant(String column, Object value) {
    return new Assignment(column, row -> value, true);
  }

  /** The position of the column in a schema. */
  int position(Schema schema) {
    if (schema.resolve(Schema.path(java.util.List.of(column))).size() != 1) {
      throw new InvalidInputException("Only whole columns can be set, not " + column + ".");
    }
    return schema.struct().indexOf(column);
  }

  /** Refuses a value that fits no row. */
  void check(Field field) {
    try {
      if (same) {
        fitted(value.apply(null), field);
      }
    } catch (InvalidInputException e) {
      throw new InvalidInputException(
          "Column %s (%s) cannot be set: %s. Nothing was changed."
              .formatted(field.name(), field.type(), e.getMessage()),
          field.name(),
          e);
    }
  }

  private static Object fitted(Object value, Field field) {
    boolean text = field.type() instanceof Type.Text || field.type() == Types.JSON;
    if (value instanceof String written && !text && !field.type().isNested()) {
      return ValueText.parse(written, field.type());
    }
    return Values.acceptField(number(value, field.type()), field);
  }

  /** Fits a value into a column, or says of which row it does not. */
  public static Object fit(Object value, Field field, Schema schema, Row row) {
    try {
      return fitted(value, field);
    } catch (InvalidInputException e) {
      throw new InvalidInputException(
          "Column %s (%s) of the row with %s cannot be set: %s. Nothing was changed."
              .formatted(field.name(), field.type(), RowText.of(schema, row), e.getMessage()),
          field.name(),
          e);
    }
  }

  /** A number of another class as the column's own, where that is exact. */
  private static Object number(Object value, Type type) {
    return value instanceof Number given ? ComputedNumbers.exact(given, type) : value;
  }
}
