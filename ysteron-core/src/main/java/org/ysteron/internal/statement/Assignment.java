package org.ysteron.internal.statement;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.rows.RowText;
import org.ysteron.internal.typing.Typing;

/**
 * The new value of a column.
 *
 * @param column the column's name
 * @param expression what its value is computed by; empty for a function
 * @param value its value, from the row as it was
 * @param same whether it is the same for all rows, so that no row is looked at
 */
public record Assignment(
    String column, Optional<Expression> expression, Function<Row, Object> value, boolean same) {

  /** A value that a function computes. */
  public static Assignment by(String column, Function<Row, Object> value) {
    return new Assignment(column, Optional.empty(), value, false);
  }

  /** A value that an expression computes. */
  public static Assignment of(String column, Expression expression) {
    return new Assignment(column, Optional.of(expression), row -> null, false);
  }

  /** A value that is the same for all rows; text in the form of {@link ValueText} is parsed. */
  public static Assignment constant(String column, Object value) {
    return new Assignment(column, Optional.empty(), row -> value, true);
  }

  /** The same with CURRENT_TIMESTAMP as a literal. */
  public Assignment at(Instant now) {
    return new Assignment(column, expression.map(given -> given.at(now)), value, same);
  }

  /** The position of the column in a schema. */
  int position(Schema schema) {
    if (schema.resolve(Schema.path(List.of(column))).size() != 1) {
      throw new InvalidInputException("Only whole columns can be set, not " + column + ".");
    }
    return schema.struct().indexOf(column);
  }

  /**
   * Refuses a value that no row can have.
   *
   * @throws InvalidInputException when it is one
   */
  void check(Field field, Schema schema) {
    try {
      expression.ifPresent(given -> new Typing(schema).type(given, field.type()));
      if (same) {
        fitted(value.apply(null), field);
      }
    } catch (InvalidInputException e) {
      throw cannotBeSet(field, e);
    }
  }

  /** What computes the values of the expression. */
  Computation computation(Field field, Schema schema) {
    return new Computation(new Typing(schema).type(expression.orElseThrow(), field.type()));
  }

  private static InvalidInputException cannotBeSet(Field field, YsteronException e) {
    String reason = e.getMessage().replaceFirst("\\.$", "");
    return new InvalidInputException(
        "Column %s (%s) cannot be set: %s. Nothing was changed."
            .formatted(field.name(), field.type(), reason),
        field.name(),
        e);
  }

  /** The values of an expression for the rows of a batch. */
  static Vector computed(Computation computation, Batch before, Field field, Schema schema) {
    Vector vector;
    try {
      vector = computation.values(before);
    } catch (ComputeException e) {
      throw wrong(field, schema, before.row(e.row()), e);
    }
    if (field.required() && vector.nullCount() > 0) {
      int row = 0;
      while (!vector.isNull(row)) {
        row++;
      }
      fit(null, field, schema, before.row(row));
    }
    return vector;
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
      throw wrong(field, schema, row, e);
    }
  }

  /** A value of a row cannot be computed, or does not fit. */
  public static InvalidInputException wrong(
      Field field, Schema schema, Row row, InvalidInputException e) {
    return new InvalidInputException(
        "Column %s (%s) of the row with %s cannot be set: %s. Nothing was changed."
            .formatted(field.name(), field.type(), RowText.of(schema, row), e.getMessage()),
        field.name(),
        e);
  }

  /** A number of another class as the column's own, where that is exact. */
  private static Object number(Object value, Type type) {
    return value instanceof Number given ? ComputedNumbers.exact(given, type) : value;
  }
}
