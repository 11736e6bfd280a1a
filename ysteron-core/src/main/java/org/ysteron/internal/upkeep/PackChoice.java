package org.ysteron.internal.upkeep;

import org.ysteron.expr.Condition;
import org.ysteron.option.Budget;

/**
 * What is to be packed.
 *
 * @param condition of those files that may hold rows for which it is true
 * @param thorough whether all small files are, whatever that costs
 * @param renews whether files of older layouts and schemas are written by the newest, too
 * @param budget how much may be done
 */
public record PackChoice(Condition condition, boolean thorough, boolean renews, Budget budget) {
  public static final PackChoice STANDARD =
      new PackChoice(Condition.all(), false, false, Budget.ALL);

  /** The same of those files only that may also hold rows for which another condition is true. */
  public PackChoice where(Condition also) {
    return new PackChoice(condition.and(also), thorough, renews, budget);
  }

  /** The same of all small files. */
  public PackChoice full() {
    return new PackChoice(condition, true, renews, budget);
  }

  /** The same of files of older layouts and schemas, too. */
  public PackChoice renewing() {
    return new PackChoice(condition, thorough, true, budget);
  }

  /** The same within another budget. */
  public PackChoice within(Budget other) {
    return new PackChoice(condition, thorough, renews, other);
  }
}
