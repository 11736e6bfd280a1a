package org.ysteron.sql.change;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDynamicParam;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlInsert;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlSelect;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.apache.calcite.sql.util.SqlShuttle;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Literal;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.typing.Typing;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.OtherTable;
import org.ysteron.sql.inside.InsideStep;
import org.ysteron.sql.inside.InsideTable;
import org.ysteron.sql.inside.Wanted;
import org.ysteron.sql.text.TypedValue;

/**
 * INSERT of one row of VALUES whose question marks stand alone: they are columns of a table that
 * has a row for each set of values. So it is planned once for all of them, and takes values of all
 * types.
 */
final class ParameterRows {
  private static final String NAME = "parameters";

  private ParameterRows() {}

  /** Whether an INSERT can be planned so. */
  static boolean isPossible(SqlNode statement) {
    if (!(statement instanceof SqlInsert insert)
        || insert.getSource().getKind() != SqlKind.VALUES
        || ((SqlCall) insert.getSource()).operandCount() != 1) {
      return false;
    }
    SqlCall row = ((SqlCall) insert.getSource()).operand(0);
    boolean some = false;
    for (SqlNode value : row.getOperandList()) {
      boolean isAlone = value instanceof SqlDynamicParam;
      some |= isAlone;
      if (!isAlone && hasParameter(value)) {
        return false;
      }
    }
    return some;
  }

  private static boolean hasParameter(SqlNode value) {
    boolean[] found = {false};
    value.accept(
        new SqlShuttle() {
          @Override
          public SqlNode visit(SqlDynamicParam parameter) {
            found[0] = true;
            return parameter;
          }
        });
    return found[0];
  }

  /**
   * The rows of an INSERT.
   *
   * @param columns which columns they are for
   * @param sets the values for the question marks, of each execution
   */
  static SqlNode query(
      SqlInsert insert,
      List<Field> columns,
      List<List<@Nullable Object>> sets,
      ChangeText text,
      LakeCatalog catalog) {
    SqlCall row = ((SqlCall) insert.getSource()).operand(0);
    SqlParserPos at = insert.getSource().getParserPosition();
    List<Field> fields = new ArrayList<>();
    List<Integer> numbers = new ArrayList<>();
    SqlNodeList selected = new SqlNodeList(at);
    for (int c = 0; c < row.operandCount(); c++) {
      if (row.operand(c) instanceof SqlDynamicParam parameter) {
        String name = "parameter " + (parameter.getIndex() + 1);
        Type type = c < columns.size() ? columns.get(c).type() : Types.text();
        fields.add(Field.of(name, type.isText() ? Types.text() : type));
        numbers.add(parameter.getIndex());
        selected.add(new SqlIdentifier(List.of(NAME, name), row.operand(c).getParserPosition()));
      } else {
        SqlNode value = row.operand(c);
        selected.add(c < columns.size() ? text.value(value, columns.get(c)) : value);
      }
    }
    InsideTable table =
        new InsideTable(
            NAME,
            Schema.ofNamesByCase(fields),
            sets.size(),
            wanted ->
                IntStream.range(0, sets.size()).mapToObj(set -> row(sets, set, numbers, fields)));
    SqlNode from =
        SqlStdOperatorTable.AS.createCall(
            at,
            catalog.pin(new OtherTable(new InsideStep(table, Wanted.ALL), sets.size()), at),
            new SqlIdentifier(NAME, at));
    return new SqlSelect(
        at, null, selected, from, null, null, null, null, null, null, null, null, null);
  }

  /** The values of an execution; what is wrong names it when it is one of several. */
  private static @Nullable Object[] row(
      List<List<@Nullable Object>> sets, int number, List<Integer> numbers, List<Field> fields) {
    try {
      return values(sets.get(number), numbers, fields);
    } catch (InvalidInputException e) {
      throw sets.size() == 1
          ? e
          : new InvalidInputException(
              "Execution %d of the batch: %s".formatted(number + 1, e.getMessage()), e);
    }
  }

  private static @Nullable Object[] values(
      List<@Nullable Object> set, List<Integer> numbers, List<Field> fields) {
    @Nullable Object[] values = new Object[numbers.size()];
    for (int i = 0; i < values.length; i++) {
      int number = numbers.get(i);
      if (number >= set.size()) {
        throw new InvalidInputException(
            "The statement has a parameter ? number %d, and %d values were given."
                .formatted(number + 1, set.size()));
      }
      values[i] = value(set.get(number), fields.get(i).type(), number);
    }
    return values;
  }

  private static @Nullable Object value(@Nullable Object given, Type type, int number) {
    Object value = given instanceof TypedValue typed ? typed.as(type) : given;
    if (value == null || isOf(value, type)) {
      return value;
    }
    if (type.isNested()) {
      return nested(value, type, number);
    }
    try {
      Typing typing = new Typing(Schema.NO_COLUMNS, Optional.empty(), Optional.empty());
      Computation cast = new Computation(typing.type(new Cast(new Literal(value), type)));
      return cast.values(new Batch(Schema.NO_COLUMNS.struct(), 1, List.of())).get(0);
    } catch (ComputeException e) {
      throw new InvalidInputException(
          "Parameter %d is no %s: %s.".formatted(number + 1, type, e.getMessage()), e);
    }
  }

  /** A list, a map, or a row; a row can be given by its values, or by their names. */
  private static Object nested(Object value, Type type, int number) {
    if (type instanceof Type.ListOf list && value instanceof List<?> elements) {
      List<@Nullable Object> all = new ArrayList<>(elements.size());
      elements.forEach(element -> all.add(value(element, list.element().type(), number)));
      return all;
    }
    if (type instanceof Type.MapOf map && value instanceof Map<?, ?> entries) {
      Map<@Nullable Object, @Nullable Object> all = new LinkedHashMap<>();
      entries.forEach(
          (key, entry) ->
              all.put(
                  value(key, map.key().type(), number), value(entry, map.value().type(), number)));
      return all;
    }
    if (type instanceof Type.Struct struct) {
      @Nullable Object[] given =
          value instanceof Row row
              ? row.values()
              : value instanceof @Nullable Object[] values
                  ? values
                  : value instanceof Map<?, ?> named
                      ? struct.fields().stream().map(field -> named.get(field.name())).toArray()
                      : new Object[0];
      if (given.length == struct.fields().size()) {
        @Nullable Object[] values = new Object[given.length];
        for (int f = 0; f < values.length; f++) {
          values[f] = value(given[f], struct.fields().get(f).type(), number);
        }
        return Row.of(struct, values);
      }
    }
    throw new InvalidInputException(
        "Parameter %d is no %s, but a %s.".formatted(number + 1, type, value.getClass().getName()));
  }

  /** Whether a value is one of a type as it is. */
  private static boolean isOf(Object value, Type type) {
    if (value instanceof BigDecimal number && type instanceof Type.Decimal decimal) {
      return number.scale() == decimal.scale() && number.precision() <= decimal.precision();
    }
    return !type.isNested()
        && new Literal(value).type().filter(own -> own.equals(type)).isPresent()
        && !(value instanceof Byte || value instanceof Short);
  }
}
