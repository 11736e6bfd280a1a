package org.ysteron.expr;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Formula;
import org.ysteron.data.Type;
import org.ysteron.internal.text.Limits;

/**
 * A value that is computed from the columns of a row, in the meaning of ISO SQL (ISO/IEC 9075-2).
 * Null in, null out, unless it is said otherwise. Which columns there are and which types fit is
 * found out when an expression meets a schema. As text an expression is SQL. Immutable.
 *
 * <p>Where a method takes a value, it takes an expression, or a Java value as a literal: a value of
 * a column's Java class (see {@link Type}), any {@link Number}, or text, which stands for a value
 * of the type that it is compared with. Start with {@link #column}.
 *
 * <p>Whole numbers are INTEGER or BIGINT as their operands are; exact numbers keep all digits:
 * {@code DECIMAL(7, 1) + DECIMAL(5, 3)} has three decimal places, a product the sum of both scales,
 * a quotient at least six. With a REAL or DOUBLE PRECISION operand the result is DOUBLE PRECISION.
 * A result that does not fit is an error, never another number.
 */
public sealed interface Expression extends Formula
    permits Call, Case, Cast, Column, Condition, Element, FieldOf, Literal, TimePart {

  /** The expressions directly inside this one. */
  List<Expression> parts();

  /** The same with other expressions inside; as many, in the same order. */
  Expression withParts(List<Expression> parts);

  /** The column of a path (see {@link org.ysteron.data.Schema}). */
  static Column column(String path) {
    return new Column(path);
  }

  /** A literal; null is NULL. */
  static Literal literal(@Nullable Object value) {
    return new Literal(value);
  }

  /** CURRENT_TIMESTAMP: the instant at which the statement began, in microseconds. */
  static Expression now() {
    return new Call(Operator.CURRENT_TIMESTAMP, List.of());
  }

  /** COALESCE: the first value that is not null. */
  static Expression coalesce(Object... values) {
    return new Call(Operator.COALESCE, Arrays.stream(values).map(Literal::orExpression).toList());
  }

  /** CASE WHEN a condition is true THEN a value; go on with {@link Case}. */
  static Case when(Condition condition, @Nullable Object value) {
    return Case.EMPTY.when(condition, value);
  }

  /** The same expression with other column paths. */
  default Expression renamed(UnaryOperator<String> paths) {
    return withColumns(column -> new Column(column.input(), paths.apply(column.path())));
  }

  /** The same expression with something in place of each column. */
  default Expression withColumns(UnaryOperator<Column> change) {
    return each(part -> part instanceof Column column ? change.apply(column) : part);
  }

  /** The same expression with CURRENT_TIMESTAMP as a literal. */
  default Expression at(Instant now) {
    return each(
        part ->
            part instanceof Call call && call.operator() == Operator.CURRENT_TIMESTAMP
                ? new Literal(now)
                : part);
  }

  /**
   * The same expression with another in place of each one in it, from the inside out.
   *
   * @throws org.ysteron.error.InvalidInputException when it has more than a million parts
   */
  default Expression each(UnaryOperator<Expression> change) {
    Limits.size(size(Limits.EXPRESSION_SIZE));
    return Walk.each(this, change);
  }

  /** How many parts it has, itself included; more than {@code most} are told as one more. */
  default int size(int most) {
    int size = 1;
    for (Expression part : parts()) {
      if (size > most) {
        return most + 1;
      }
      size += part.size(most - size);
    }
    return size;
  }

  /** The paths of all columns in the expression, in their order. */
  default Set<String> columns() {
    Set<String> paths = new LinkedHashSet<>();
    withColumns(
        column -> {
          paths.add(column.path());
          return column;
        });
    return paths;
  }

  /** How deep the expression nests; more than {@code most} is told as one more than that. */
  default int depth(int most) {
    int deepest = 0;
    for (Expression part : most < 1 ? List.<Expression>of() : parts()) {
      deepest = Math.max(deepest, part.depth(most - 1));
    }
    return 1 + deepest;
  }

  private Condition compare(Condition.Comparison comparison, @Nullable Object value) {
    return new Condition.Compare(this, comparison, Literal.orExpression(value));
  }

  private Expression call(Operator operator, @Nullable Object... values) {
    List<Expression> arguments = new ArrayList<>();
    arguments.add(this);
    for (Object value : values) {
      arguments.add(Literal.orExpression(value));
    }
    return new Call(operator, arguments);
  }

  default Condition equalTo(@Nullable Object value) {
    return compare(Condition.Comparison.EQUAL, value);
  }

  default Condition notEqualTo(@Nullable Object value) {
    return compare(Condition.Comparison.NOT_EQUAL, value);
  }

  default Condition lessThan(@Nullable Object value) {
    return compare(Condition.Comparison.LESS, value);
  }

  default Condition atMost(@Nullable Object value) {
    return compare(Condition.Comparison.AT_MOST, value);
  }

  default Condition greaterThan(@Nullable Object value) {
    return compare(Condition.Comparison.GREATER, value);
  }

  default Condition atLeast(@Nullable Object value) {
    return compare(Condition.Comparison.AT_LEAST, value);
  }

  /** BETWEEN; both bounds are included. */
  default Condition between(@Nullable Object low, @Nullable Object high) {
    return atLeast(low).and(atMost(high));
  }

  /** IS DISTINCT FROM: whether two values differ, where null is equal to null; never unknown. */
  default Condition distinctFrom(@Nullable Object value) {
    return new Condition.Distinct(this, Literal.orExpression(value));
  }

  default Condition in(Collection<?> values) {
    List<Expression> options = new ArrayList<>(values.size());
    values.forEach(value -> options.add(Literal.orExpression(value)));
    return new Condition.In(this, options);
  }

  /** Compares with another column of the same row. */
  default Condition compared(Condition.Comparison comparison, String otherPath) {
    return compare(comparison, column(otherPath));
  }

  default Condition isNull() {
    return new Condition.IsNull(this);
  }

  default Condition isNotNull() {
    return new Condition.Not(new Condition.IsNull(this));
  }

  /** LIKE: {@code %} stands for any characters, {@code _} for one. */
  default Condition like(String pattern) {
    return new Condition.Like(this, pattern, java.util.OptionalInt.empty());
  }

  /**
   * LIKE with ESCAPE.
   *
   * @param escape the character (code point) behind which {@code %} and {@code _} are meant as they
   *     are
   */
  default Condition like(String pattern, int escape) {
    return new Condition.Like(this, pattern, java.util.OptionalInt.of(escape));
  }

  default Condition startsWith(String prefix) {
    return Condition.Like.startsWith(this, prefix);
  }

  /** The value of a boolean expression as a condition. */
  default Condition isTrue() {
    return new Condition.Holds(this);
  }

  /** A sum; also a date or time and an interval. */
  default Expression plus(@Nullable Object value) {
    return call(Operator.ADD, value);
  }

  /** A difference; also of a date or time and an interval. */
  default Expression minus(@Nullable Object value) {
    return call(Operator.SUBTRACT, value);
  }

  default Expression times(@Nullable Object value) {
    return call(Operator.MULTIPLY, value);
  }

  /** A quotient, of exact numbers rounded half up to at least six decimal places. */
  default Expression dividedBy(@Nullable Object value) {
    return call(Operator.DIVIDE, value);
  }

  /** MOD: the remainder of a division, with the sign of the dividend. */
  default Expression modulo(@Nullable Object value) {
    return call(Operator.MOD, value);
  }

  default Expression negated() {
    return call(Operator.NEGATE);
  }

  default Expression abs() {
    return call(Operator.ABS);
  }

  /** ROUND: half away from zero. */
  default Expression round(int places) {
    return call(Operator.ROUND, places);
  }

  /** CAST. */
  default Expression cast(Type type) {
    return new Cast(this, type);
  }

  /** Texts one behind the other. */
  default Expression concat(@Nullable Object value) {
    return call(Operator.CONCAT, value);
  }

  default Expression upper() {
    return call(Operator.UPPER);
  }

  default Expression lower() {
    return call(Operator.LOWER);
  }

  /** TRIM: without spaces at both ends. */
  default Expression trim() {
    return call(Operator.TRIM);
  }

  /** SUBSTRING: characters from a position, the first of which is 1. */
  default Expression substring(Object from) {
    return call(Operator.SUBSTRING, from);
  }

  /** SUBSTRING: so many characters from a position, the first of which is 1. */
  default Expression substring(Object from, Object length) {
    return call(Operator.SUBSTRING, from, length);
  }

  /** CHAR_LENGTH: how many characters. */
  default Expression length() {
    return call(Operator.CHAR_LENGTH);
  }

  /** The value, or another where it is null. */
  default Expression orElse(Object value) {
    return call(Operator.COALESCE, value);
  }

  /** NULLIF: null where the value is equal to another. */
  default Expression nullIf(Object value) {
    return call(Operator.NULLIF, value);
  }

  /** CARDINALITY: how many elements a list or map has. */
  default Expression cardinality() {
    return call(Operator.CARDINALITY);
  }

  /** The element of a list at a position, the first of which is 1, or a map's value of a key. */
  default Expression element(Object key) {
    return new Element(this, Literal.orExpression(key));
  }

  /** The field of a struct. */
  default Expression field(String name) {
    return new FieldOf(this, name);
  }

  /** JSON_VALUE: the scalar at a path such as {@code $.health.battery}, as text. */
  default Expression jsonValue(String path) {
    return call(Operator.JSON_VALUE, path);
  }

  /** EXTRACT: a part of a date or time; of instants, the part in UTC. */
  default Expression extract(TimeUnit unit) {
    return new TimePart(TimePart.Kind.EXTRACT, unit, this);
  }

  /** FLOOR of a date or time: the beginning of its unit; of instants, of the unit in UTC. */
  default Expression floorTo(TimeUnit unit) {
    return new TimePart(TimePart.Kind.FLOOR, unit, this);
  }
}
