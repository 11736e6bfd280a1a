package org.ysteron.sql.join;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Passing;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ProjectStep;

/**
 * A join by hashing: the right rows are kept in memory, the left ones go past them. Without keys
 * each row meets each other one.
 *
 * @param leftKeys of the left rows, each of the type of its right key
 * @param nullsMeet whether a key that is null is equal to another that is null
 * @param rest what pairs with equal keys have to pass as well
 * @param both the columns of pairs
 * @param columns the columns of the result: those of pairs, or of the one side that is told, for
 *     MARK with a boolean behind them
 */
public record JoinStep(
    Kind kind,
    Step left,
    Step right,
    List<Expression> leftKeys,
    List<Expression> rightKeys,
    boolean nullsMeet,
    Optional<Condition> rest,
    Schema both,
    Schema columns)
    implements Passing {

  /**
   * Whether right rows are needed, and not only which keys they have: nulls in one of several keys
   * can meet anything.
   */
  boolean keepsRows() {
    boolean keysTell = kind != Kind.MARK || rightKeys.size() == 1;
    return !kind.firstDecides() || rest.isPresent() || !keysTell;
  }

  /** The same with right rows that have no other columns than their keys. */
  JoinStep ofKeys(Running running) {
    if (rightKeys.equals(Keys.columns(right.columns()))) {
      return this;
    }
    Schema keys =
        Made.schema(
            rightKeys.stream().map(key -> running.typed(key, right.columns()).type()).toList());
    return withRight(new ProjectStep(right, rightKeys, keys), Keys.columns(keys));
  }

  private JoinStep withRight(Step other, List<Expression> keys) {
    return new JoinStep(kind, left, other, leftKeys, keys, nullsMeet, rest, both, columns);
  }

  /** The join of parts of the rows of both sides. */
  JoinStep ofParts(Step lefts, Step rights) {
    return over(lefts).withRight(rights, rightKeys);
  }

  /** Kinds of joins. */
  public enum Kind {
    INNER,
    LEFT,
    RIGHT,
    FULL,
    /** Left rows that have a partner. */
    SEMI,
    /** Left rows that have none. */
    ANTI,
    /** Right rows that have a partner. */
    RIGHT_SEMI,
    /** Right rows that have none. */
    RIGHT_ANTI,
    /** Left rows, and whether they have a partner: unknown when a null may be one. */
    MARK;

    /** Whether right rows are told when all left ones have gone past. */
    boolean marksRight() {
      return this == RIGHT || this == FULL || this == RIGHT_SEMI || this == RIGHT_ANTI;
    }

    /** Whether left rows without a partner are not told. */
    boolean needsPartner() {
      return this == INNER
          || this == SEMI
          || this == RIGHT
          || this == RIGHT_SEMI
          || this == RIGHT_ANTI;
    }

    /** Whether pairs of rows are told. */
    public boolean pairs() {
      return this == INNER || this == LEFT || this == RIGHT || this == FULL;
    }

    /** Whether the first partner of a left row says all of it. */
    boolean firstDecides() {
      return this == SEMI || this == ANTI || this == MARK;
    }
  }

  @Override
  public List<Step> inputs() {
    return List.of(left, right);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Joining(needed(running), Optional.empty(), Optional.empty(), running);
  }

  /** Without right columns that are not needed. */
  private JoinStep needed(Running running) {
    return keepsRows() ? this : ofKeys(running);
  }

  @Override
  public JoinStep over(Step rows) {
    return new JoinStep(kind, rows, right, leftKeys, rightKeys, nullsMeet, rest, both, columns);
  }

  @Override
  public boolean isShared() {
    return !kind.marksRight();
  }

  @Override
  public Ready ready(Running running) {
    JoinStep join = needed(running);
    BuiltSide built = new BuiltSide(join, running);
    try {
      return new Ready(
          built.restricted(join),
          built.spill() == null,
          rows -> new BuiltJoin(join.over(rows), built),
          built::close);
    } catch (RuntimeException | Error e) {
      built.close();
      throw e;
    }
  }
}
