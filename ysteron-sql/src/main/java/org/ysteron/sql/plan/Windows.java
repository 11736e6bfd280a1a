package org.ysteron.sql.plan;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelFieldCollation;
import org.apache.calcite.rel.core.Window;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexWindowBound;
import org.apache.calcite.rex.RexWindowExclusion;
import org.apache.calcite.sql.SqlAggFunction;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.expr.Operator;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.window.Window.Bound;
import org.ysteron.sql.window.Window.Call;
import org.ysteron.sql.window.Window.Function;
import org.ysteron.sql.window.WindowStep;

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
    List<Frame> frames =
        rel.groups.stream().map(group -> frame(group, inputs, rel, input, fields)).toList();
    // Distances are in the bounds now, and an interval cannot be a column.
    for (int c = inputs; c < inputs + rel.constants.size(); c++) {
      boolean isInterval = input.type(fields.get(c)) instanceof Type.Interval;
      fields.set(c, isInterval ? new Literal(0) : fields.get(c));
    }
    IdentityHashMap<Window.RexWinAggCall, Integer> defaults = defaults(rel, input, fields);
    Stage whole = new Stage(input.step(), fields).whole();
    Step rows = whole.step();
    List<Type> types = new ArrayList<>(whole.types());
    List<org.ysteron.sql.window.Window> windows = new ArrayList<>();
    for (int g = 0; g < rel.groups.size(); g++) {
      Window.Group group = rel.groups.get(g);
      List<Call> calls = new ArrayList<>();
      for (Window.RexWinAggCall call : group.aggCalls) {
        calls.add(call(call, defaults.get(call), whole));
        types.add(calls.get(calls.size() - 1).type());
      }
      windows.add(
          new org.ysteron.sql.window.Window(
              group.keys.asList(),
              group.orderKeys.getFieldCollations().stream().map(Windows::order).toList(),
              group.isRows,
              frames.get(g).from,
              frames.get(g).to,
              excluded(group, calls),
              calls));
    }
    Stage all = Stage.of(new WindowStep(rows, windows, Made.schema(types)));
    List<Expression> told = new ArrayList<>(all.fields().subList(0, inputs));
    told.addAll(all.fields().subList(fields.size(), all.fields().size()));
    return new Stage(all.step(), told);
  }

  private static org.ysteron.sql.window.Window.Excluded excluded(
      Window.Group group, List<Call> calls) {
    boolean excludes = group.exclude != RexWindowExclusion.EXCLUDE_NO_OTHER;
    if (excludes && calls.stream().anyMatch(call -> call.function() != Function.AGGREGATE)) {
      throw new InvalidInputException("EXCLUDE goes with aggregates only, in a window.");
    }
    return switch (group.exclude) {
      case EXCLUDE_NO_OTHER -> org.ysteron.sql.window.Window.Excluded.NONE;
      case EXCLUDE_CURRENT_ROW -> org.ysteron.sql.window.Window.Excluded.CURRENT;
      case EXCLUDE_GROUP -> org.ysteron.sql.window.Window.Excluded.GROUP;
      case EXCLUDE_TIES -> org.ysteron.sql.window.Window.Excluded.TIES;
    };
  }

  /** Where a frame begins and ends. */
  private record Frame(Bound from, Bound to) {}

  /** Bounds by a distance in values are computed for each row, as fields behind the others. */
  private static Frame frame(
      Window.Group group, int inputs, Window rel, Stage input, List<Expression> fields) {
    return new Frame(
        bound(group, group.lowerBound, inputs, rel, input, fields),
        bound(group, group.upperBound, inputs, rel, input, fields));
  }

  static Ordering.Order order(RelFieldCollation order) {
    boolean descending = order.direction.isDescending();
    boolean nullsFirst =
        order.nullDirection == RelFieldCollation.NullDirection.FIRST
            || (order.nullDirection == RelFieldCollation.NullDirection.UNSPECIFIED && descending);
    return new Ordering.Order(order.getFieldIndex(), descending, nullsFirst);
  }

  private static Bound bound(
      Window.Group group,
      RexWindowBound bound,
      int inputs,
      Window rel,
      Stage input,
      List<Expression> fields) {
    if (bound.isUnbounded()) {
      return new Bound(bound.isPreceding() ? Bound.Kind.FIRST : Bound.Kind.LAST, 0, 0);
    }
    if (bound.isCurrentRow()) {
      return new Bound(Bound.Kind.CURRENT, 0, 0);
    }
    RexNode offset = bound.getOffset();
    if (group.isRows) {
      RexLiteral literal =
          offset instanceof RexInputRef constant
              ? rel.constants.get(constant.getIndex() - inputs)
              : (RexLiteral) offset;
      long distance = literal.getValueAs(BigDecimal.class).longValueExact();
      return new Bound(Bound.Kind.BY_ROWS, bound.isPreceding() ? -distance : distance, 0);
    }
    List<RelFieldCollation> orders = group.orderKeys.getFieldCollations();
    if (orders.size() != 1 || !(offset instanceof RexInputRef constant)) {
      throw new InvalidInputException(
          "A window with RANGE and a distance has one key in its ORDER BY, and a literal as its distance.");
    }
    Expression key = fields.get(orders.get(0).getFieldIndex());
    boolean adds = bound.isPreceding() == orders.get(0).direction.isDescending();
    Expression end =
        new org.ysteron.expr.Call(
            adds ? Operator.ADD : Operator.SUBTRACT, List.of(key, fields.get(constant.getIndex())));
    Type type =
        Stage.common(input.type(key), input.type(end))
            .orElseThrow(() -> new IllegalStateException("a sum is like its parts"));
    fields.add(input.as(key, type));
    fields.add(input.as(end, type));
    return new Bound(Bound.Kind.BY_VALUE, fields.size() - 2, fields.size() - 1);
  }

  /** What LAG and LEAD give where there is no row, as fields of the type of their values. */
  private static IdentityHashMap<Window.RexWinAggCall, Integer> defaults(
      Window rel, Stage input, List<Expression> fields) {
    IdentityHashMap<Window.RexWinAggCall, Integer> defaults = new IdentityHashMap<>();
    for (Window.Group group : rel.groups) {
      for (Window.RexWinAggCall call : group.aggCalls) {
        Function function = function((SqlAggFunction) call.getOperator());
        if ((function == Function.LAG || function == Function.LEAD)
            && call.getOperands().size() > 2) {
          List<Integer> of = operands(call);
          Type type = input.type(fields.get(of.get(0)));
          fields.add(input.as(fields.get(of.get(2)), type));
          defaults.put(call, fields.size() - 1);
        }
      }
    }
    return defaults;
  }

  private static List<Integer> operands(Window.RexWinAggCall call) {
    List<Integer> of = new ArrayList<>();
    for (RexNode operand : call.getOperands()) {
      of.add(((RexInputRef) operand).getIndex());
    }
    return of;
  }

  private static Call call(Window.RexWinAggCall call, @Nullable Integer otherwise, Stage whole) {
    List<Integer> of = operands(call);
    if (otherwise != null) {
      of.set(2, otherwise);
    }
    Function function = function((SqlAggFunction) call.getOperator());
    return switch (function) {
      case ROW_NUMBER, RANK, DENSE_RANK, NTILE ->
          new Call(function, of, null, call.ignoreNulls, Types.BIGINT);
      case PERCENT_RANK, CUME_DIST -> new Call(function, of, null, call.ignoreNulls, Types.DOUBLE);
      case LAG, LEAD, FIRST_VALUE, LAST_VALUE, NTH_VALUE ->
          new Call(function, of, null, call.ignoreNulls, whole.types().get(of.get(0)));
      case AGGREGATE -> aggregate(call, of, whole);
    };
  }

  private static Call aggregate(Window.RexWinAggCall call, List<Integer> of, Stage whole) {
    List<Expression> on = of.stream().map(whole.fields()::get).toList();
    Aggregate made =
        Aggregates.of(
            (SqlAggFunction) call.getOperator(),
            on,
            Optional.empty(),
            call.distinct,
            List.of(),
            call.getType(),
            whole);
    return new Call(Function.AGGREGATE, of, made, call.ignoreNulls, made.type());
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
