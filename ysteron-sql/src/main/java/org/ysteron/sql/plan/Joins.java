package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rex.RexCall;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.util.ImmutableBitSet;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.sql.join.JoinStep;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.Renaming;

/** Makes steps of joins: finds their keys, and which side is kept in memory. */
final class Joins {
  private final RexReader reader;
  private final Estimates estimates;
  private final List<Expression> leftKeys = new ArrayList<>();
  private final List<Expression> rightKeys = new ArrayList<>();
  private final List<RexNode> rest = new ArrayList<>();

  Joins(RexReader reader, Estimates estimates) {
    this.reader = reader;
    this.estimates = estimates;
  }

  Stage of(Join join, Stage leftInput, Stage rightInput) {
    Stage left = leftInput.whole();
    Stage right = rightInput.whole();
    boolean nullsMeet = split(join, left, right);
    JoinStep.Kind kind = kind(join.getJoinType());
    boolean turns = turns(join, kind);
    Step kept = turns ? left.step() : right.step();
    Step passing = turns ? right.step() : left.step();
    List<Type> types = new ArrayList<>(types(passing));
    types.addAll(types(kept));
    Schema both = Made.schema(types);
    Schema columns =
        switch (kind) {
          case SEMI, ANTI -> left.step().columns();
          case MARK -> {
            List<Type> marked = new ArrayList<>(types(passing));
            marked.add(Types.BOOLEAN);
            yield Made.schema(marked);
          }
          default -> both;
        };
    int lefts = types(left.step()).size();
    int rights = types(right.step()).size();
    List<Expression> fields = new ArrayList<>();
    left.fields()
        .forEach(
            field ->
                fields.add(Renaming.of(field, left.step().columns(), both, turns ? rights : 0)));
    right
        .fields()
        .forEach(
            field ->
                fields.add(Renaming.of(field, right.step().columns(), both, turns ? 0 : lefts)));
    Optional<Condition> condition =
        rest.isEmpty()
            ? Optional.empty()
            : Optional.of(
                new Condition.And(rest.stream().map(reader.on(fields)::condition).toList()));
    JoinStep step =
        new JoinStep(
            turns ? turned(kind) : kind,
            passing,
            kept,
            turns ? rightKeys : leftKeys,
            turns ? leftKeys : rightKeys,
            nullsMeet,
            condition,
            both,
            columns);
    return kind == JoinStep.Kind.SEMI || kind == JoinStep.Kind.ANTI || kind == JoinStep.Kind.MARK
        ? Stage.of(step)
        : new Stage(step, fields);
  }

  private static List<Type> types(Step step) {
    return step.columns().columns().stream().map(column -> column.type()).toList();
  }

  static JoinStep.Kind kind(JoinRelType type) {
    return switch (type) {
      case INNER -> JoinStep.Kind.INNER;
      case LEFT -> JoinStep.Kind.LEFT;
      case RIGHT -> JoinStep.Kind.RIGHT;
      case FULL -> JoinStep.Kind.FULL;
      case SEMI -> JoinStep.Kind.SEMI;
      case ANTI -> JoinStep.Kind.ANTI;
      case LEFT_MARK -> JoinStep.Kind.MARK;
      default -> throw new InvalidInputException("A join %s is not there yet.".formatted(type));
    };
  }

  private static JoinStep.Kind turned(JoinStep.Kind kind) {
    return switch (kind) {
      case LEFT -> JoinStep.Kind.RIGHT;
      case RIGHT -> JoinStep.Kind.LEFT;
      case SEMI -> JoinStep.Kind.RIGHT_SEMI;
      case ANTI -> JoinStep.Kind.RIGHT_ANTI;
      default -> kind;
    };
  }

  /** Whether the left side is the smaller one, so that it is kept. */
  private boolean turns(Join join, JoinStep.Kind kind) {
    if (kind == JoinStep.Kind.MARK) {
      return false;
    }
    return estimates.rows(join.getLeft()) < estimates.rows(join.getRight());
  }

  /** Finds the keys; whether those that are null meet each other. */
  private boolean split(Join join, Stage left, Stage right) {
    List<RexNode> parts = RelOptUtil.conjunctions(join.getCondition());
    boolean nullsMeet =
        parts.stream().noneMatch(part -> part.getKind() == SqlKind.EQUALS)
            && parts.stream().anyMatch(part -> part.getKind() == SqlKind.IS_NOT_DISTINCT_FROM);
    SqlKind wanted = nullsMeet ? SqlKind.IS_NOT_DISTINCT_FROM : SqlKind.EQUALS;
    int lefts = join.getLeft().getRowType().getFieldCount();
    List<Expression> fields = new ArrayList<>(left.fields());
    fields.addAll(right.fields());
    RexReader on = reader.on(fields);
    for (RexNode part : parts) {
      if (part.getKind() != wanted || !isKey((RexCall) part, lefts, on, left, right)) {
        rest.add(part);
      }
    }
    return nullsMeet;
  }

  private boolean isKey(RexCall equal, int lefts, RexReader on, Stage left, Stage right) {
    RexNode one = equal.getOperands().get(0);
    RexNode other = equal.getOperands().get(1);
    ImmutableBitSet ones = RelOptUtil.InputFinder.bits(one);
    ImmutableBitSet others = RelOptUtil.InputFinder.bits(other);
    if (ones.isEmpty() || others.isEmpty()) {
      return false;
    }
    boolean straight = ones.length() <= lefts && others.nextSetBit(0) >= lefts;
    boolean turned = others.length() <= lefts && ones.nextSetBit(0) >= lefts;
    if (!straight && !turned) {
      return false;
    }
    Expression ofLeft = on.expression(straight ? one : other);
    Expression ofRight = on.expression(straight ? other : one);
    Optional<Type> type = Stage.common(left.type(ofLeft), right.type(ofRight));
    if (type.isEmpty() || type.get().isNested()) {
      return false;
    }
    leftKeys.add(left.as(ofLeft, type.get()));
    rightKeys.add(right.as(ofRight, type.get()));
    return true;
  }
}
