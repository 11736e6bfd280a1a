package org.ysteron.sql.plan;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelFieldCollation;
import org.apache.calcite.rel.core.Window;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexWindowBound;
import org.apache.calcite.sql.SqlAggFunction;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.Aggregate;
import org.ysteron.sql.run.Window.Bound;
import org.ysteron.sql.run.Window.Call;
import org.ysteron.sql.run.Window.Function;
import org.ysteron.sql.run.WindowStep;

/** Makes steps of window functions. */
final class Windows {
  private Windows() {}

  /** The fields of the input, then what each window computes. */
  static Stage of(Window rel, Stage input, RexReader reader) {
    List<Expression> fields = new ArrayList<>(input.fields());
    int inputs = fields.size();
    for (RexLiteral constant : rel.constants) {
      fields.add(reader.expression(constant));
    }
    Stage whole = new Stage(input.step(), fields).whole();
    Step rows = whole.step();
    List<Type> types = new ArrayList<>(whole.types());
    List<org.ysteron.sql.run.Window> windows = new ArrayList<>();
    for (Window.Group group : rel.groups) {
      List<Call> calls = new ArrayList<>();
      for (Window.RexWinAggCall call : group.aggCalls) {
        calls.add(call(call, whole));
        types.add(calls.get(calls.size() - 1).type());
      }
      windows.add(
          new org.ysteron.sql.run.Window(
              group.keys.asList(),
              group.orderKeys.getFieldCollations().stream().map(Windows::order).toList(),
              group.isRows,
              bound(group.lowerBound, group.isRows, inputs, rel),
              bound(group.upperBound, group.isRows, inputs, rel),
              calls));
    }
    Stage all = Stage.of(new WindowStep(rows, windows, Stage.schema(types)));
    List<Expression> told = new ArrayList<>(all.fields().subList(0, inputs));
    told.addAll(all.fields().subList(fields.size(), all.fields().size()));
    return new Stage(all.step(), told);
  }

  static Ordering.Order order(RelFieldCollation order) {
    boolean descending = order.direction.isDescending();
    boolean nullsFirst =
        order.nullDirection == RelFieldCollation.NullDirection.FIRST
            || (order.nullDirection == RelFieldCollation.NullDirection.UNSPECIFIED && descending);
    return new Ordering.Order(order.getFieldIndex(), descending, nullsFirst);
  }

  private static Bound bound(RexWindowBound bound, boolean isRows, int inputs, Window rel) {
    if (bound.isUnbounded()) {
      return new Bound(bound.isPreceding() ? Bound.Kind.FIRST : Bound.Kind.LAST, 0);
    }
    if (bound.isCurrentRow()) {
      return new Bound(Bound.Kind.CURRENT, 0);
    }
    if (!isRows) {
      throw new InvalidInputException(
          "A window with RANGE and a distance is not there yet; ROWS counts rows.");
    }
    RexNode offset = bound.getOffset();
    RexLiteral literal =
        offset instanceof RexInputRef constant
            ? rel.constants.get(constant.getIndex() - inputs)
            : (RexLiteral) offset;
    long distance = literal.getValueAs(BigDecimal.class).longValueExact();
    return new Bound(Bound.Kind.BY_ROWS, bound.isPreceding() ? -distance : distance);
  }

  private static Call call(Window.RexWinAggCall call, Stage whole) {
    List<Integer> of = new ArrayList<>();
    for (RexNode operand : call.getOperands()) {
      of.add(((RexInputRef) operand).getIndex());
    }
    if (call.distinct || call.ignoreNulls) {
      throw new InvalidInputException(
          "%s is not there yet for windows."
              .formatted(call.distinct ? "DISTINCT" : "IGNORE NULLS"));
    }
    Function function = function((SqlAggFunction) call.getOperator());
    return switch (function) {
      case ROW_NUMBER, RANK, DENSE_RANK, NTILE -> new Call(function, of, null, Types.BIGINT);
      case PERCENT_RANK, CUME_DIST -> new Call(function, of, null, Types.DOUBLE);
      case LAG, LEAD, FIRST_VALUE, LAST_VALUE, NTH_VALUE ->
          new Call(function, of, null, whole.types().get(of.get(0)));
      case AGGREGATE -> aggregate(call, of, whole);
    };
  }

  private static Call aggregate(Window.RexWinAggCall call, List<Integer> of, Stage whole) {
    Aggregate.Function function = Stages.function((SqlAggFunction) call.getOperator());
    Type type =
        switch (function) {
          case COUNT, GROUPING -> Types.BIGINT;
          case MIN, MAX, ANY_VALUE, ONLY_VALUE -> whole.types().get(of.get(0));
          case SUM, SUM_OR_ZERO, AVG -> RelTypes.of(call.getType());
        };
    List<Expression> on = of.stream().map(whole.fields()::get).toList();
    Aggregate made = new Aggregate(function, on, Optional.empty(), false, type);
    return new Call(Function.AGGREGATE, of, made, type);
  }

  private static Function function(SqlAggFunction function) {
    return switch (function.getKind()) {
      case ROW_NUMBER -> Function.ROW_NUMBER;
      case RANK -> Function.RANK;
      case DENSE_RANK -> Function.DENSE_RANK;
      case PERCENT_RANK -> Function.PERCENT_RANK;
      case CUME_DIST -> Function.CUME_DIST;
      case NTILE -> Function.NTILE;
      case LAG -> Function.LAG;
      case LEAD -> Function.LEAD;
      case FIRST_VALUE -> Function.FIRST_VALUE;
      case LAST_VALUE -> Function.LAST_VALUE;
      case NTH_VALUE -> Function.NTH_VALUE;
      default -> Function.AGGREGATE;
    };
  }
}
