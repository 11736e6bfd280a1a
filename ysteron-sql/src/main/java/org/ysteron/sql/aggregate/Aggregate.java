package org.ysteron.sql.aggregate;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.sql.keep.Ordering;

/**
 * An aggregate of a group.
 *
 * @param of what it is computed of; none for COUNT(*)
 * @param where which rows count
 * @param isDistinct whether each different value counts once
 * @param order in which order the values are taken, by their number; most functions have none
 * @param type the type of the result
 */
public record Aggregate(
    Function function,
    List<Expression> of,
    Optional<Condition> where,
    boolean isDistinct,
    List<Ordering.Order> order,
    Type type) {

  /** The values that the function looks at: of COUNT of several, the first one. */
  public List<Expression> taken() {
    return function == Function.COUNT && of.size() > 1 ? of.subList(0, 1) : of;
  }

  /** The same of other values, each of which counts. */
  public Aggregate ofEach(List<Expression> values) {
    return new Aggregate(function, values, where, false, order, type);
  }

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
    EVERY,
    SOME,
    VAR_POP(true),
    VAR_SAMP(true),
    STDDEV_POP(true),
    STDDEV_SAMP(true),
    COVAR_POP(true),
    COVAR_SAMP(true),
    REGR_COUNT(true),
    REGR_SXX(true),
    REGR_SYY(true),
    /** Texts in an order, with a separator between them. */
    LISTAGG,
    PERCENTILE_CONT,
    PERCENTILE_DISC,
    /** Which of the keys named by their numbers are not in the grouping set, as bits. */
    GROUPING;

    private final boolean isStatistical;

    Function() {
      this(false);
    }

    Function(boolean isStatistical) {
      this.isStatistical = isStatistical;
    }

    /** Whether it is of variances and the like, of approximate numbers. */
    public boolean isStatistical() {
      return isStatistical;
    }

    /** The function in SQL. */
    public String word() {
      return switch (this) { // the others are called as they are
        case SUM_OR_ZERO -> "sum";
        case ONLY_VALUE -> "only_value";
        default -> name().toLowerCase(Locale.ROOT);
      };
    }
  }
}
