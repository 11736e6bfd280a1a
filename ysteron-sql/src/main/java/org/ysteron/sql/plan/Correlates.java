package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Correlate;
import org.apache.calcite.rel.core.CorrelationId;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.core.Uncollect;
import org.apache.calcite.rel.core.Values;
import org.apache.calcite.rex.RexNode;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.sql.join.EachStep;
import org.ysteron.sql.join.JoinStep;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.FilterStep;
import org.ysteron.sql.run.RowsStep;

/**
 * Makes steps of what is done for each row of another relation: UNNEST of its lists; and, as a last
 * resort, subqueries that no rule has made joins of. For one query.
 */
final class Correlates {
  private final Stages stages;
  private final RexReader reader;

  Correlates(Stages stages, RexReader reader) {
    this.stages = stages;
    this.reader = reader;
  }

  Stage of(Correlate rel) {
    Stage left = stages.of(rel.getLeft()).whole();
    return unnested(rel, left).orElseGet(() -> each(rel, left));
  }

  /** The row outside as the one row of a relation, where nothing but its values is wanted. */
  static Optional<Stage> ofOuterRow(Project project, RexReader reader) {
    if (!(project.getInput() instanceof Values values) || values.getTuples().size() != 1) {
      return Optional.empty();
    }
    List<CorrelationId> used = List.copyOf(RelOptUtil.getVariablesUsed(project));
    if (used.size() != 1) {
      return Optional.empty();
    }
    CorrelationId id = used.get(0);
    Optional<Step> row = reader.outer(id).flatMap(RexReader.OuterRow::row);
    return row.map(
        step -> {
          Stage input = Stage.of(step);
          RexReader on =
              reader.under(id, new RexReader.OuterRow(input.fields(), row)).on(List.of());
          return new Stage(step, project.getProjects().stream().map(on::expression).toList());
        });
  }

  /** UNNEST beside a relation, when it is that and what is computed of its elements. */
  private Optional<Stage> unnested(Correlate rel, Stage left) {
    List<RelNode> above = new ArrayList<>();
    RelNode right = rel.getRight();
    while (right instanceof Filter || right instanceof Project) {
      above.add(0, right);
      right = right.getInput(0);
    }
    boolean keepsEmpty = rel.getJoinType() == JoinRelType.LEFT;
    boolean fits =
        right instanceof Uncollect
            && (rel.getJoinType() == JoinRelType.INNER || (keepsEmpty && above.isEmpty()));
    if (!fits
        || !(right.getInput(0) instanceof Project lists)
        || !(lists.getInput() instanceof Values)) {
      return Optional.empty();
    }
    RexReader on = reader.under(rel.getCorrelationId(), row(left.fields()));
    List<Expression> collections =
        lists.getProjects().stream().map(on.on(List.of())::expression).toList();
    Stage all = Unnesting.of((Uncollect) right, left, collections, keepsEmpty);
    int lefts = left.fields().size();
    List<Expression> outer = all.fields().subList(0, lefts);
    RexReader onAll = reader.under(rel.getCorrelationId(), row(outer));
    Step step = all.step();
    List<Expression> fields = all.fields().subList(lefts, all.fields().size());
    for (RelNode one : above) {
      RexReader of = onAll.on(fields);
      if (one instanceof Filter filter) {
        step = new FilterStep(step, of.condition(filter.getCondition()));
      } else {
        fields = ((Project) one).getProjects().stream().map(of::expression).toList();
      }
    }
    List<Expression> told = new ArrayList<>(outer);
    told.addAll(fields);
    return Optional.of(new Stage(step, told));
  }

  private static RexReader.OuterRow row(List<Expression> fields) {
    return new RexReader.OuterRow(fields, Optional.empty());
  }

  private Stage each(Correlate rel, Stage left) {
    Schema columns = left.step().columns();
    List<Type> types = left.types();
    List<Vector> nulls = types.stream().map(type -> Made.nulls(type, 1)).toList();
    Step right = right(rel, new Batch(columns.struct(), 1, nulls), left.step());
    List<Type> both = new ArrayList<>(types);
    right.columns().columns().forEach(column -> both.add(column.type()));
    JoinStep.Kind kind = Joins.kind(rel.getJoinType());
    Schema pairs = Made.schema(both);
    List<Type> marked = new ArrayList<>(types);
    marked.add(Types.BOOLEAN);
    Schema told =
        switch (kind) {
          case SEMI, ANTI -> columns;
          case MARK -> Made.schema(marked);
          default -> pairs;
        };
    RexNode condition = rel.getCondition();
    Optional<Condition> rest =
        condition.isAlwaysTrue()
            ? Optional.empty()
            : Optional.of(
                reader
                    .under(rel.getCorrelationId(), row(Stage.of(left.step()).fields()))
                    .on(Keys.columns(pairs))
                    .condition(condition));
    JoinStep shape =
        new JoinStep(kind, left.step(), right, List.of(), List.of(), false, rest, pairs, told);
    List<Integer> used = rel.getRequiredColumns().asList();
    return Stage.of(new EachStep(left.step(), used, row -> right(rel, row, left.step()), shape));
  }

  /** The relation for one row outside. */
  private Step right(Correlate rel, Batch row, Step left) {
    List<Expression> values = new ArrayList<>();
    for (int c = 0; c < row.vectors().size(); c++) {
      Type type = row.vectors().get(c).type();
      values.add(
          type.isNested()
              ? Stage.column(left.columns().columns().get(c).name())
              : new Cast(new Literal(row.vectors().get(c).get(0)), type));
    }
    RexReader.OuterRow outer =
        new RexReader.OuterRow(values, Optional.of(new RowsStep(row, left.columns(), "outside")));
    return stages.under(rel.getCorrelationId(), outer).of(rel.getRight()).whole().step();
  }
}
