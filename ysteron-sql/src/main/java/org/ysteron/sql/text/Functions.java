package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlIntervalQualifier;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.fun.SqlTrimFunction;
import org.ysteron.expr.Call;
import org.ysteron.expr.Element;
import org.ysteron.expr.Expression;
import org.ysteron.expr.FieldOf;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;

/** Calls of operators and functions. */
final class Functions {
  private static final Map<String, Operator> NAMED =
      Map.ofEntries(
          Map.entry("MOD", Operator.MOD),
          Map.entry("%", Operator.MOD),
          Map.entry("||", Operator.CONCAT),
          Map.entry("ABS", Operator.ABS),
          Map.entry("ROUND", Operator.ROUND),
          Map.entry("POWER", Operator.POWER),
          Map.entry("SQRT", Operator.SQRT),
          Map.entry("EXP", Operator.EXP),
          Map.entry("LN", Operator.LN),
          Map.entry("UPPER", Operator.UPPER),
          Map.entry("LOWER", Operator.LOWER),
          Map.entry("SUBSTRING", Operator.SUBSTRING),
          Map.entry("POSITION", Operator.POSITION),
          Map.entry("{FN LOCATE}", Operator.POSITION),
          Map.entry("CHAR_LENGTH", Operator.CHAR_LENGTH),
          Map.entry("CHARACTER_LENGTH", Operator.CHAR_LENGTH),
          Map.entry("OVERLAY", Operator.OVERLAY),
          Map.entry("COALESCE", Operator.COALESCE),
          Map.entry("NULLIF", Operator.NULLIF),
          Map.entry("CURRENT_TIMESTAMP", Operator.CURRENT_TIMESTAMP),
          Map.entry("JSON_VALUE", Operator.JSON_VALUE),
          Map.entry("JSON_EXISTS", Operator.JSON_EXISTS),
          Map.entry("CARDINALITY", Operator.CARDINALITY));

  private Functions() {}

  /** The expression of a call; empty when there is none. */
  static Optional<Expression> of(SqlCall call, ExpressionReader reader) {
    String name = call.getOperator().getName().toUpperCase(Locale.ROOT);
    return switch (call.getKind()) {
      case PLUS -> all(Operator.ADD, call, reader);
      case MINUS -> all(Operator.SUBTRACT, call, reader);
      case TIMES -> all(Operator.MULTIPLY, call, reader);
      case DIVIDE -> all(Operator.DIVIDE, call, reader);
      case MINUS_PREFIX -> all(Operator.NEGATE, call, reader);
      case PLUS_PREFIX -> Optional.of(reader.value(call.operand(0)));
      case EXTRACT ->
          Optional.of(part(TimePart.Kind.EXTRACT, call.operand(0), call.operand(1), reader));
      case FLOOR -> Optional.of(whole(TimePart.Kind.FLOOR, Operator.FLOOR, call, reader));
      case CEIL -> Optional.of(whole(TimePart.Kind.CEIL, Operator.CEIL, call, reader));
      case TRIM -> Optional.of(trim(call, reader));
      case ITEM ->
          Optional.of(new Element(reader.value(call.operand(0)), reader.value(call.operand(1))));
      case DOT -> Optional.of(field(call, reader));
      default ->
          Optional.ofNullable(NAMED.get(name)).flatMap(operator -> named(operator, call, reader));
    };
  }

  private static Optional<Expression> named(
      Operator operator, SqlCall call, ExpressionReader reader) {
    boolean json = operator == Operator.JSON_VALUE || operator == Operator.JSON_EXISTS;
    if (!json) {
      return all(operator, call, reader);
    }
    List<Expression> arguments = new ArrayList<>();
    for (SqlNode operand : call.getOperandList()) {
      if (arguments.size() < 2) {
        arguments.add(reader.value(bare(operand)));
      } else if (operand != null && !isUsual(operand)) {
        return Optional.empty(); // RETURNING, ON EMPTY, ON ERROR
      }
    }
    return Optional.of(new Call(operator, arguments));
  }

  /** What the parser adds by itself: NULL ON EMPTY, NULL ON ERROR. */
  private static boolean isUsual(SqlNode operand) {
    return operand instanceof SqlLiteral;
  }

  private static SqlNode bare(SqlNode operand) {
    return operand instanceof SqlCall call
            && call.getOperator().getName().toUpperCase(Locale.ROOT).contains("FORMAT JSON")
        ? call.operand(0)
        : operand;
  }

  private static Optional<Expression> all(
      Operator operator, SqlCall call, ExpressionReader reader) {
    return Optional.of(
        new Call(operator, call.getOperandList().stream().map(reader::value).toList()));
  }

  private static Expression part(
      TimePart.Kind kind, SqlNode unit, SqlNode of, ExpressionReader reader) {
    String name =
        unit instanceof SqlIntervalQualifier qualifier
            ? qualifier.timeUnitRange.toString()
            : unit.toString();
    for (TimeUnit known : TimeUnit.values()) {
      if (known.name().equalsIgnoreCase(name)) {
        return new TimePart(kind, known, reader.value(of));
      }
    }
    throw reader.unsupported(unit, "There is no unit of that name");
  }

  private static Expression whole(
      TimePart.Kind kind, Operator operator, SqlCall call, ExpressionReader reader) {
    return call.operandCount() == 2
        ? part(kind, call.operand(1), call.operand(0), reader)
        : new Call(operator, List.of(reader.value(call.operand(0))));
  }

  private static Expression trim(SqlCall call, ExpressionReader reader) {
    SqlTrimFunction.Flag ends =
        ((SqlLiteral) call.operand(0)).symbolValue(SqlTrimFunction.Flag.class);
    Operator operator =
        ends == SqlTrimFunction.Flag.LEADING
            ? Operator.TRIM_LEADING
            : ends == SqlTrimFunction.Flag.TRAILING ? Operator.TRIM_TRAILING : Operator.TRIM;
    Expression of = reader.value(call.operand(2));
    Expression character = reader.value(call.operand(1));
    return new Call(
        operator, character.equals(Expression.literal(" ")) ? List.of(of) : List.of(of, character));
  }

  private static Expression field(SqlCall call, ExpressionReader reader) {
    if (call.operand(1) instanceof SqlIdentifier name && name.isSimple()) {
      return new FieldOf(reader.value(call.operand(0)), name.getSimple());
    }
    throw reader.unsupported(call, "A field of a struct is named behind a point");
  }
}
