package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelHomogeneousShuttle;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.CorrelationId;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.logical.LogicalFilter;
import org.apache.calcite.rel.logical.LogicalJoin;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexCall;
import org.apache.calcite.rex.RexCorrelVariable;
import org.apache.calcite.rex.RexFieldAccess;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexShuttle;
import org.apache.calcite.rex.RexSubQuery;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlKind;

/**
 * Makes EXISTS and NOT EXISTS in a WHERE semi-joins and anti-joins, where the subquery is a
 * relation with a condition on its rows and those outside. Others are left to general rules, which
 * read the outer rows once more.
 */
final class ExistsJoins extends RelHomogeneousShuttle {
  @Override
  public RelNode visit(RelNode other) {
    RelNode rel = super.visit(other);
    return rel instanceof Filter filter ? joined(filter) : rel;
  }

  private static RelNode joined(Filter filter) {
    RexBuilder builder = filter.getCluster().getRexBuilder();
    RelNode rel = filter.getInput();
    List<RexNode> left = new ArrayList<>();
    for (RexNode part : RelOptUtil.conjunctions(filter.getCondition())) {
      boolean not = part.getKind() == SqlKind.NOT;
      RexNode of = not ? ((RexCall) part).getOperands().get(0) : part;
      Optional<RelNode> joined =
          of.getKind() == SqlKind.EXISTS
              ? join(rel, (RexSubQuery) of, filter.getVariablesSet(), not)
              : Optional.empty();
      if (joined.isPresent()) {
        rel = joined.get();
      } else {
        left.add(part);
      }
    }
    if (rel == filter.getInput()) {
      return filter;
    }
    return left.isEmpty()
        ? rel
        : LogicalFilter.create(
            rel,
            RexUtil.composeConjunction(builder, left),
            com.google.common.collect.ImmutableSet.copyOf(filter.getVariablesSet()));
  }

  private static Optional<RelNode> join(
      RelNode outer, RexSubQuery exists, Set<CorrelationId> variables, boolean not) {
    RelNode inner = exists.rel;
    while (inner instanceof Project project && !project.containsOver()) {
      inner = project.getInput();
    }
    List<RexNode> conditions = new ArrayList<>();
    while (inner instanceof Filter filter) {
      conditions.addAll(RelOptUtil.conjunctions(filter.getCondition()));
      inner = filter.getInput();
    }
    boolean isPlain =
        RelOptUtil.getVariablesUsed(inner).isEmpty()
            && conditions.stream().allMatch(part -> RexUtil.SubQueryFinder.find(part) == null);
    Outer fields =
        new Outer(
            outer.getCluster().getRexBuilder(),
            variables,
            outer,
            outer.getRowType().getFieldCount());
    if (!isPlain) {
      return Optional.empty();
    }
    List<RexNode> on = conditions.stream().map(part -> part.accept(fields)).toList();
    if (fields.isStrange) {
      return Optional.empty();
    }
    return Optional.of(
        LogicalJoin.create(
            outer,
            inner,
            List.of(),
            RexUtil.composeConjunction(outer.getCluster().getRexBuilder(), on),
            Set.of(),
            not ? JoinRelType.ANTI : JoinRelType.SEMI));
  }

  /** Puts the fields of the outer rows, and then those of the inner ones, in their places. */
  private static final class Outer extends RexShuttle {
    private final RexBuilder builder;
    private final Set<CorrelationId> variables;
    private final RelNode outer;
    private final int offset;
    private boolean isStrange;

    Outer(RexBuilder builder, Set<CorrelationId> variables, RelNode outer, int offset) {
      this.builder = builder;
      this.variables = variables;
      this.outer = outer;
      this.offset = offset;
    }

    @Override
    public RexNode visitFieldAccess(RexFieldAccess access) {
      if (access.getReferenceExpr() instanceof RexCorrelVariable variable) {
        if (variables.contains(variable.id)) {
          return builder.makeInputRef(outer, access.getField().getIndex());
        }
        isStrange = true;
      }
      return super.visitFieldAccess(access);
    }

    @Override
    public RexNode visitInputRef(org.apache.calcite.rex.RexInputRef field) {
      return new org.apache.calcite.rex.RexInputRef(field.getIndex() + offset, field.getType());
    }
  }
}
