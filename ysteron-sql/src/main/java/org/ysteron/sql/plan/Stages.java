package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Optional;
import java.util.stream.IntStream;
import org.apache.calcite.rel.RelFieldCollation;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Aggregate;
import org.apache.calcite.rel.core.AggregateCall;
import org.apache.calcite.rel.core.Correlate;
import org.apache.calcite.rel.core.CorrelationId;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.core.RepeatUnion;
import org.apache.calcite.rel.core.SetOp;
import org.apache.calcite.rel.core.Sort;
import org.apache.calcite.rel.core.Spool;
import org.apache.calcite.rel.core.TableScan;
import org.apache.calcite.rel.core.Uncollect;
import org.apache.calcite.rel.core.Union;
import org.apache.calcite.rel.core.Values;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.util.ImmutableBitSet;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.sql.catalog.PlannedTable;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.inside.InsideStep;
import org.ysteron.sql.keep.Made;
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
public final class Stages {
  private final RexReader reader;
  private final Estimates estimates;
  private final boolean pushes;
  private final IdentityHashMap<Step, Double> expected;

  /** {@code pushes}: whether scans and metadata do what they can of the work of other steps. */
  Stages(RexReader reader, Estimates estimates, boolean pushes) {
    this(reader, estimates, pushes, new IdentityHashMap<>());
  }

  private Stages(
      RexReader reader,
      Estimates estimates,
      boolean pushes,
      IdentityHashMap<Step, Double> expected) {
    this.pushes = pushes;
    this.reader = reader;
    this.estimates = estimates;
    this.expected = expected;
  }

  /** About how many rows steps make; of those that are made for rows of others nothing is known. */
  IdentityHashMap<Step, Double> expected() {
    return expected;
  }

  Stage of(RelNode rel) {
    Stage made = made(rel);
    double rows = estimates.rows(rel);
    expected.put(made.step(), rows);
    return made.step() instanceof ScanStep scan
        ? new Stage(scan.expecting(rows), made.fields())
        : made;
  }

  private Stage made(RelNode rel) {
    if (rel instanceof TableScan scan) {
      if (Recursions.isRound(scan)) {
        return Recursions.round(scan);
      }
      return Stage.of(scan.getTable().unwrapOrThrow(PlannedTable.class).step());
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
    if (rel instanceof RepeatUnion recursion) {
      return Recursions.of(recursion, this);
    }
    if (rel instanceof Spool spool) {
      return of(spool.getInput());
    }
    if (rel instanceof Uncollect unnest) {
      Stage input = of(unnest.getInput());
      Stage all = Unnesting.of(unnest, input, input.fields(), false);
      return new Stage(
          all.step(), all.fields().subList(input.fields().size(), all.fields().size()));
    }
    if (rel instanceof Correlate correlate) {
      return new Correlates(this, reader).of(correlate);
    }
    throw new InvalidInputException(
        "The query needs %s, which is not there yet.".formatted(rel.getRelTypeName()));
  }

  private Stage filter(Filter filter) {
    Stage input = of(filter.getInput());
    Condition condition = reader.on(input.fields()).condition(filter.getCondition());
    return new Stage(filtered(input.step(), condition), input.fields());
  }

  private Step filtered(Step step, Condition condition) {
    if (!pushes) {
      return new FilterStep(step, condition);
    }
    if (step instanceof ScanStep scan) {
      return scan.where(condition);
    }
    return new FilterStep(
        step instanceof InsideStep inside ? inside.where(condition) : step, condition);
  }

  /** The same below a row of a relation outside. */
  Stages under(CorrelationId id, RexReader.OuterRow row) {
    return new Stages(reader.under(id, row), estimates, pushes, expected);
  }

  private Stage project(Project project) {
    return Correlates.ofOuterRow(project, reader).orElseGet(() -> projected(project));
  }

  private Stage projected(Project project) {
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
    List<org.ysteron.sql.aggregate.Aggregate> calls = new ArrayList<>();
    List<Type> types = new ArrayList<>(by.stream().map(input::type).toList());
    List<Expression> used = new ArrayList<>(by);
    for (AggregateCall call : rel.getAggCallList()) {
      org.ysteron.sql.aggregate.Aggregate made = Aggregates.of(call, input);
      calls.add(made);
      types.add(made.type());
      used.addAll(made.of());
      made.where().ifPresent(used::add);
    }
    Optional<Stage> told =
        pushes && by.isEmpty() && sets.size() == 1
            ? FromMetadata.of(calls, input)
            : Optional.empty();
    if (told.isPresent()) {
      return told.get();
    }
    Schema columns = Made.schema(types);
    if (Aggregates.areOfSameDistinct(calls)
        && sets.size() == 1
        && sets.get(0).size() == by.size()) {
      return ofDistinct(input.reading(used), by, calls, columns);
    }
    return Stage.of(new AggregateStep(input.reading(used), by, sets, calls, columns));
  }

  /**
   * Aggregates of different values: those are found first, as groups, which can wait in files when
   * they do not fit in memory.
   */
  private static Stage ofDistinct(
      Step rows,
      List<Expression> by,
      List<org.ysteron.sql.aggregate.Aggregate> calls,
      Schema columns) {
    List<Expression> all = new ArrayList<>(by);
    all.addAll(calls.get(0).of());
    Stage different = distinct(new Stage(rows, all));
    List<Expression> keys = different.fields().subList(0, by.size());
    List<Expression> of = different.fields().subList(by.size(), all.size());
    List<Integer> set = IntStream.range(0, by.size()).boxed().toList();
    return Stage.of(
        new AggregateStep(
            different.step(),
            keys,
            List.of(set),
            calls.stream().map(call -> call.ofEach(of)).toList(),
            columns));
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
    List<List<Integer>> sets = List.of(IntStream.range(0, all.fields().size()).boxed().toList());
    Schema columns = Made.schema(all.types());
    return Stage.of(new AggregateStep(all.step(), all.fields(), sets, List.of(), columns));
  }

  /** The inputs of a set operation, with columns of the types of the result. */
  private List<Step> alike(SetOp set) {
    List<Step> inputs = new ArrayList<>();
    for (RelNode input : set.getInputs()) {
      inputs.add(alike(of(input), set));
    }
    return inputs;
  }

  /** The rows of a stage, with columns of the types of a relation. */
  static Step alike(Stage stage, RelNode rel) {
    List<Type> types = RelTypes.ofFields(rel);
    List<Expression> fields = new ArrayList<>();
    for (int i = 0; i < types.size(); i++) {
      fields.add(stage.as(stage.fields().get(i), types.get(i)));
    }
    return new Stage(stage.step(), fields).whole().step();
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
    List<Type> types = RelTypes.ofFields(values);
    List<List<Expression>> rows = new ArrayList<>();
    for (List<org.apache.calcite.rex.RexLiteral> tuple : values.getTuples()) {
      rows.add(tuple.stream().map(RexLiterals::of).toList());
    }
    Stage.noIntervals(types);
    return Stage.of(new ValuesStep(rows, Made.schema(types)));
  }
}
