package org.ysteron.internal.typing;

import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;

/** What an expression costs by its form, and whether computing it can fail. */
public final class Costs {
  private static final int FAILING = 1 << 24;
  private static final int OF_TEXT = 8;
  private static final int OF_JSON = 200;

  private Costs() {}

  /** What a condition costs, about, against a test of a number; below zero when it can fail. */
  public static int of(TypedTest test) {
    int rank = rank(test);
    return rank == FAILING ? -1 : 2 + rank;
  }

  /** An order of tests: those that can fail are last, and equal to each other. */
  public static int rank(TypedTest test) {
    if (test.values().stream().anyMatch(Costs::canFail)) {
      return FAILING;
    }
    return test.values().stream().mapToInt(Costs::cost).sum();
  }

  private static int cost(Typed typed) {
    int inner = typed.parts().stream().mapToInt(Costs::cost).sum();
    boolean json =
        typed instanceof Typed.Applied applied
            && (applied.operator() == Operator.JSON_VALUE
                || applied.operator() == Operator.JSON_EXISTS);
    return Math.min(FAILING - 1, inner + (json ? OF_JSON : typed.type().isText() ? OF_TEXT : 1));
  }

  /** Whether some value of the columns makes computing it an error. */
  public static boolean canFail(Typed typed) {
    return fails(typed) || typed.parts().stream().anyMatch(Costs::canFail);
  }

  private static boolean fails(Typed typed) {
    if (typed instanceof Typed.Applied applied) {
      return switch (applied.operator()) {
        case CONCAT, UPPER, LOWER, POSITION, CHAR_LENGTH, CARDINALITY, ARRAY, FLOOR, CEIL, ROUND ->
            false;
        case ABS, NEGATE -> !(typed.type() instanceof Type.Decimal) && typed.type() != Types.DOUBLE;
        case ADD, SUBTRACT, MULTIPLY ->
            !(typed.type() instanceof Type.Decimal decimal)
                || decimal.precision() == Type.Decimal.MOST_DIGITS;
        case JSON_VALUE, JSON_EXISTS -> applied.parts().get(0).type() != Types.JSON;
        case TRIM, TRIM_LEADING, TRIM_TRAILING -> applied.parts().size() > 1;
        case SUBSTRING -> applied.parts().size() > 2;
        default -> true;
      };
    }
    if (typed instanceof Typed.ElementOf element) {
      return element.of().type() instanceof Type.ListOf;
    }
    if (typed instanceof Typed.OfTime part) {
      return part.kind() != org.ysteron.expr.TimePart.Kind.EXTRACT;
    }
    return typed instanceof Typed.Stored
        || (typed instanceof Typed.Converted converted
            && fails(converted.of().type(), typed.type()));
  }

  private static boolean fails(Type from, Type to) {
    if (to instanceof Type.Text) {
      return false;
    }
    if (Numbers.isExact(from) && Numbers.isExact(to)) {
      int before = Numbers.precision(from) - Numbers.scale(from);
      boolean rounds = Numbers.scale(from) > Numbers.scale(to);
      int room = Numbers.precision(to) - Numbers.scale(to);
      // The whole types hold some, not all numbers of as many digits.
      return Numbers.isWhole(to)
          ? !(Numbers.isWhole(from) && Numbers.precision(from) <= Numbers.precision(to))
              && before >= Numbers.precision(to)
          : before + (rounds ? 1 : 0) > room;
    }
    return !(to == Types.DOUBLE && from.isNumber());
  }
}
