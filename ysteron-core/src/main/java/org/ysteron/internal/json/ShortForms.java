package org.ysteron.internal.json;

import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;

/** The forms of conditions that were there before there were expressions. */
public final class ShortForms {
  private ShortForms() {}

  /** Whether a condition has such forms only. */
  public static boolean isShort(Condition condition) {
    return condition.match(
        new Condition.Cases<Boolean>() {
          @Override
          public Boolean compare(Condition.Compare test) {
            return isColumn(test.left())
                && (isColumn(test.right()) || test.right() instanceof Literal);
          }

          @Override
          public Boolean distinct(Condition.Distinct test) {
            return false;
          }

          @Override
          public Boolean in(Condition.In test) {
            return isColumn(test.value())
                && test.options().stream().allMatch(Literal.class::isInstance);
          }

          @Override
          public Boolean isNull(Condition.IsNull test) {
            return isColumn(test.value());
          }

          @Override
          public Boolean like(Condition.Like test) {
            return isColumn(test.value()) && test.onlyPrefix().isPresent();
          }

          @Override
          public Boolean holds(Condition.Holds test) {
            return false;
          }

          @Override
          public Boolean and(Condition.And test) {
            return test.conditions().stream().allMatch(part -> part.match(this));
          }

          @Override
          public Boolean or(Condition.Or test) {
            return test.conditions().stream().allMatch(part -> part.match(this));
          }

          @Override
          public Boolean unknown(Condition.Unknown test) {
            return false;
          }

          @Override
          public Boolean not(Condition.Not test) {
            return test.part().match(this);
          }
        });
  }

  static boolean isColumn(Expression expression) {
    return expression instanceof Column column && column.input() == Column.Input.TABLE;
  }
}
