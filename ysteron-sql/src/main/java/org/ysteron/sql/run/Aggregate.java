package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;

/**
 * An aggregate of a group.
 *
 * @param of what it is computed of; none for COUNT(*)
 * @param where which rows count
 * @param isDistinct whether each different value counts once
 * @param type the type of the result
 */
public record Aggregate(
    Function function,
    List<Expression> of,
    Optional<Condition> where,
    boolean isDistinct,
    Type type) {

  /** Aggregate functions. */
  public enum Function {
    COUNT,
    /** Null for no values. */
    SUM,
    /** 0 for no values. */
    SUM_OR_ZERO,
    AVG,
    MIN,
    MAX,
    /** Any of the values. */
    ANY_VALUE,
    /** The value of a group of one row; a second row is an error. */
    ONLY_VALUE,
    /** Which of the keys named by their numbers are not in the grouping set, as bits. */
    GROUPING
  }
}
