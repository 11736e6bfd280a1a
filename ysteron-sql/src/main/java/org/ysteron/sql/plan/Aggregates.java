package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelFieldCollation;
import org.apache.calcite.rel.core.AggregateCall;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.sql.SqlAggFunction;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.keep.Ordering;

/** Makes aggregates of planned calls. */
final class Aggregates {
  private Aggregates() {}

  /** The aggregate of a call on the fields of a stage. */
  static Aggregate of(AggregateCall call, Stage input) {
    if (call.distinctKeys != null || call.ignoreNulls()) {
      throw new InvalidInputException(
          "%s with %s is not there yet."
              .formatted(
                  call.getAggregation().getName(),
                  call.ignoreNulls() ? "IGNORE NULLS" : "WITHIN DISTINCT"));
    }
    List<Expression> of =
        new ArrayList<>(call.getArgList().stream().map(input.fields()::get).toList());
    Optional<Condition> where =
        call.filterArg < 0
            ? Optional.empty()
            : Optional.of(holds(input.fields().get(call.filterArg)));
    if (of.size() > 1 && function(call.getAggregation()) == Aggregate.Function.COUNT) {
      where = Optional.of(withoutNulls(where, of));
    }
    List<Ordering.Order> order = new ArrayList<>();
    for (RelFieldCollation field : call.getCollation().getFieldCollations()) {
      Ordering.Order planned = Windows.order(field);
      order.add(new Ordering.Order(of.size(), planned.descending(), planned.nullsFirst()));
      of.add(input.fields().get(field.getFieldIndex()));
    }
    return of(call.getAggregation(), of, where, call.isDistinct(), order, call.getType(), input);
  }

  /** The aggregate of some values. */
  static Aggregate of(
      SqlAggFunction planned,
      List<Expression> values,
      Optional<Condition> where,
      boolean isDistinct,
      List<Ordering.Order> order,
      RelDataType plannedType,
      Stage input) {
    Aggregate.Function function = function(planned);
    List<Expression> of = values;
    Type type =
        switch (function) {
          case COUNT, GROUPING, REGR_COUNT -> Types.BIGINT;
          case MIN, MAX, ANY_VALUE, ONLY_VALUE -> input.type(of.get(0));
          case EVERY, SOME -> Types.BOOLEAN;
          case LISTAGG -> Types.text();
          case PERCENTILE_DISC -> input.type(of.get(order.get(0).column()));
          default -> RelTypes.of(plannedType);
        };
    if (function.isStatistical()) {
      of = of.stream().map(one -> (Expression) new Cast(one, Types.DOUBLE)).toList();
    }
    return new Aggregate(function, of, where, isDistinct, order, type);
  }

  /** Whether all of them are of the same value, each different one once, and of all rows. */
  static boolean areOfSameDistinct(List<Aggregate> calls) {
    return !calls.isEmpty()
        && calls.stream()
            .allMatch(
                call ->
                    call.isDistinct()
                        && call.of().size() == 1
                        && call.where().isEmpty()
                        && call.order().isEmpty()
                        && call.of().equals(calls.get(0).of()));
  }

  /** COUNT of several values counts rows in which none of them is null. */
  private static Condition withoutNulls(Optional<Condition> where, List<Expression> of) {
    List<Condition> parts = new ArrayList<>(where.stream().toList());
    of.forEach(value -> parts.add(new Condition.Not(new Condition.IsNull(value))));
    return new Condition.And(parts);
  }

  private static Condition holds(Expression expression) {
    return expression instanceof Condition condition ? condition : new Condition.Holds(expression);
  }

  private static Aggregate.Function function(SqlAggFunction of) {
    return switch (of.getKind()) {
      case COUNT -> Aggregate.Function.COUNT;
      case SUM -> Aggregate.Function.SUM;
      case SUM0 -> Aggregate.Function.SUM_OR_ZERO;
      case AVG -> Aggregate.Function.AVG;
      case MIN -> of.getName().equals("EVERY") ? Aggregate.Function.EVERY : Aggregate.Function.MIN;
      case MAX -> of.getName().equals("SOME") ? Aggregate.Function.SOME : Aggregate.Function.MAX;
      case ANY_VALUE -> Aggregate.Function.ANY_VALUE;
      case SINGLE_VALUE -> Aggregate.Function.ONLY_VALUE;
      case GROUPING -> Aggregate.Function.GROUPING;
      case VAR_POP -> Aggregate.Function.VAR_POP;
      case VAR_SAMP -> Aggregate.Function.VAR_SAMP;
      case STDDEV_POP -> Aggregate.Function.STDDEV_POP;
      case STDDEV_SAMP -> Aggregate.Function.STDDEV_SAMP;
      case COVAR_POP -> Aggregate.Function.COVAR_POP;
      case COVAR_SAMP -> Aggregate.Function.COVAR_SAMP;
      case REGR_COUNT -> Aggregate.Function.REGR_COUNT;
      case REGR_SXX -> Aggregate.Function.REGR_SXX;
      case REGR_SYY -> Aggregate.Function.REGR_SYY;
      case LISTAGG -> Aggregate.Function.LISTAGG;
      case PERCENTILE_CONT -> Aggregate.Function.PERCENTILE_CONT;
      case PERCENTILE_DISC -> Aggregate.Function.PERCENTILE_DISC;
      default ->
          throw new InvalidInputException(
              "The aggregate %s is not there yet.".formatted(of.getName()));
    };
  }
}
