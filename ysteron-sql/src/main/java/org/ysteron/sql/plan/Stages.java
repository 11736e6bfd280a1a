package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelFieldCollation;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Aggregate;
import org.apache.calcite.rel.core.AggregateCall;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.core.SetOp;
import org.apache.calcite.rel.core.Sort;
import org.apache.calcite.rel.core.TableScan;
import org.apache.calcite.rel.core.Union;
import org.apache.calcite.rel.core.Values;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.sql.SqlAggFunction;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.util.ImmutableBitSet;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.AggregateStep;
import org.ysteron.sql.run.FilterStep;
import org.ysteron.sql.run.LimitStep;
import org.ysteron.sql.run.ScanStep;
import org.ysteron.sql.run.SetStep;
import org.ysteron.sql.run.SortStep;
import org.ysteron.sql.run.UnionStep;
import org.ysteron.sql.run.ValuesStep;

/** Makes steps of a planned query. For one query. */
final class Stages {
  private final RexReader reader;
  private final Estimates estimates;

  Stages(RexReader reader, Estimates estimates) {
    this.reader = reader;
    this.estimates = estimates;
  }

  Stage of(RelNode rel) {
    if (rel instanceof TableScan scan) {
      LakeTable table = scan.getTable().unwrapOrThrow(LakeTable.class);
      return Stage.of(ScanStep.of(table.view().scan()));
    }
    if (rel instanceof Filter filter) {
      return filter(filter);
    }
    if (rel instanceof Project project) {
      return project(project);
    }
    if (rel instanceof Aggregate aggregate) {
      return aggregate(aggregate);
    }
    if (rel instanceof Join join) {
      return new Joins(reader, estimates).of(join, of(join.getLeft()), of(join.getRight()));
    }
    if (rel instanceof Sort sort) {
      return sort(sort);
    }
    if (rel instanceof Union union) {
      return union(union);
    }
    if (rel instanceof SetOp set) {
      return set(set);
    }
    if (rel instanceof org.apache.calcite.rel.core.Window window) {
      return Windows.of(window, of(window.getInput()), reader);
    }
    if (rel instanceof Values values) {
      return values(values);
    }
    throw new InvalidInputException(
        "The query needs %s, which is not there yet.".formatted(rel.getRelTypeName()));
  }

  private Stage filter(Filter filter) {
    Stage input = of(filter.getInput());
    Condition condition = reader.on(input.fields()).condition(filter.getCondition());
    return new Stage(filtered(input.step(), condition), input.fields());
  }

  private static Step filtered(Step step, Condition condition) {
    return step instanceof ScanStep scan ? scan.where(condition) : new FilterStep(step, condition);
  }

  private Stage project(Project project) {
    Stage input = of(project.getInput());
    RexReader on = reader.on(input.fields());
    List<Expression> fields = new ArrayList<>();
    for (RexNode node : project.getProjects()) {
      fields.add(input.as(on.expression(node), RelTypes.of(node.getType())));
    }
    return new Stage(input.step(), fields);
  }

  private Stage aggregate(Aggregate rel) {
    Stage input = of(rel.getInput());
    List<Integer> keys = rel.getGroupSet().asList();
    List<Expression> by = keys.stream().map(input.fields()::get).toList();
    List<List<Integer>> sets = new ArrayList<>();
    for (ImmutableBitSet set : rel.getGroupSets()) {
      sets.add(set.asList().stream().map(keys::indexOf).toList());
    }
    List<org.ysteron.sql.run.Aggregate> calls = new ArrayList<>();
    List<Type> types = new ArrayList<>(by.stream().map(input::type).toList());
    List<Expression> used = new ArrayList<>(by);
    for (AggregateCall call : rel.getAggCallList()) {
      org.ysteron.sql.run.Aggregate made = call(call, input);
      calls.add(made);
      types.add(made.type());
      used.addAll(made.of());
      made.where().ifPresent(used::add);
    }
    Schema columns = Stage.schema(types);
    return Stage.of(new AggregateStep(input.reading(used), by, sets, calls, columns));
  }

  private static org.ysteron.sql.run.Aggregate call(AggregateCall call, Stage input) {
    List<Expression> of = call.getArgList().stream().map(input.fields()::get).toList();
    Optional<Condition> where =
        call.filterArg < 0
            ? Optional.empty()
            : Optional.of(holds(input.fields().get(call.filterArg)));
    org.ysteron.sql.run.Aggregate.Function function = function(call);
    Type type =
        switch (function) {
          case COUNT, GROUPING -> Types.BIGINT;
          case MIN, MAX, ANY_VALUE, ONLY_VALUE -> input.type(of.get(0));
          case SUM, SUM_OR_ZERO, AVG -> RelTypes.of(call.getType());
        };
    if (of.size() > 1 && function == org.ysteron.sql.run.Aggregate.Function.COUNT) {
      where = Optional.of(withoutNulls(where, of));
    }
    return new org.ysteron.sql.run.Aggregate(function, of, where, call.isDistinct(), type);
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

  private static org.ysteron.sql.run.Aggregate.Function function(AggregateCall call) {
    return function(call.getAggregation());
  }

  static org.ysteron.sql.run.Aggregate.Function function(SqlAggFunction of) {
    return switch (of.getKind()) {
      case COUNT -> org.ysteron.sql.run.Aggregate.Function.COUNT;
      case SUM -> org.ysteron.sql.run.Aggregate.Function.SUM;
      case SUM0 -> org.ysteron.sql.run.Aggregate.Function.SUM_OR_ZERO;
      case AVG -> org.ysteron.sql.run.Aggregate.Function.AVG;
      case MIN -> org.ysteron.sql.run.Aggregate.Function.MIN;
      case MAX -> org.ysteron.sql.run.Aggregate.Function.MAX;
      case ANY_VALUE -> org.ysteron.sql.run.Aggregate.Function.ANY_VALUE;
      case SINGLE_VALUE -> org.ysteron.sql.run.Aggregate.Function.ONLY_VALUE;
      case GROUPING -> org.ysteron.sql.run.Aggregate.Function.GROUPING;
      default ->
          throw new InvalidInputException(
              "The aggregate %s is not there yet.".formatted(of.getName()));
    };
  }

  private Stage sort(Sort sort) {
    Stage input = of(sort.getInput());
    long offset = sort.offset == null ? 0 : reader.rows(sort.offset);
    long limit = sort.fetch == null ? Long.MAX_VALUE : reader.rows(sort.fetch);
    List<RelFieldCollation> orders = sort.getCollation().getFieldCollations();
    if (orders.isEmpty()) {
      return new Stage(new LimitStep(input.reading(input.fields()), offset, limit), input.fields());
    }
    Stage whole = input.whole();
    long most = offset + limit < 0 ? Long.MAX_VALUE : offset + limit;
    Step sorted = new SortStep(whole.step(), orders.stream().map(Windows::order).toList(), most);
    boolean cut = offset > 0 || limit < Long.MAX_VALUE;
    return new Stage(cut ? new LimitStep(sorted, offset, limit) : sorted, whole.fields());
  }

  private Stage union(Union union) {
    List<Step> inputs = alike(union);
    Stage all = Stage.of(new UnionStep(inputs, inputs.get(0).columns()));
    return union.all ? all : distinct(all);
  }

  private static Stage distinct(Stage all) {
    List<List<Integer>> sets =
        List.of(java.util.stream.IntStream.range(0, all.fields().size()).boxed().toList());
    Schema columns = Stage.schema(all.types());
    return Stage.of(new AggregateStep(all.step(), all.fields(), sets, List.of(), columns));
  }

  /** The inputs of a set operation, with columns of the types of the result. */
  private List<Step> alike(SetOp set) {
    List<Type> types =
        set.getRowType().getFieldList().stream()
            .map(field -> RelTypes.of(field.getType()))
            .toList();
    List<Step> inputs = new ArrayList<>();
    for (RelNode input : set.getInputs()) {
      Stage stage = of(input);
      List<Expression> fields = new ArrayList<>();
      for (int i = 0; i < types.size(); i++) {
        fields.add(stage.as(stage.fields().get(i), types.get(i)));
      }
      inputs.add(new Stage(stage.step(), fields).whole().step());
    }
    return inputs;
  }

  private Stage set(SetOp set) {
    List<Step> inputs = alike(set);
    Step left = inputs.get(0);
    boolean isIntersect = set.kind == SqlKind.INTERSECT;
    for (Step right : inputs.subList(1, inputs.size())) {
      left = new SetStep(left, right, isIntersect, set.all, left.columns());
    }
    return Stage.of(left);
  }

  private Stage values(Values values) {
    List<Type> types =
        values.getRowType().getFieldList().stream()
            .map(field -> RelTypes.of(field.getType()))
            .toList();
    List<List<Expression>> rows = new ArrayList<>();
    for (List<org.apache.calcite.rex.RexLiteral> tuple : values.getTuples()) {
      rows.add(tuple.stream().map(RexLiterals::of).toList());
    }
    return Stage.of(new ValuesStep(rows, Stage.schema(types)));
  }
}
