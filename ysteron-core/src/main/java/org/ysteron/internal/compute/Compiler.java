package org.ysteron.internal.compute;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.internal.text.LikePattern;
import org.ysteron.internal.typing.Costs;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/** Makes kernels of typed expressions and tests of typed conditions. */
public final class Compiler {
  private Compiler() {}

  /** The kernel of an expression. */
  public static Kernel kernel(Typed typed) {
    if (typed instanceof Typed.OfColumn column) {
      return new Leaves.OfColumn(column);
    }
    if (typed instanceof Typed.Constant constant) {
      return new Leaves.OfConstant(constant);
    }
    if (typed instanceof Typed.Applied applied) {
      return applied(applied);
    }
    if (typed instanceof Typed.OfTime part) {
      return new TimeKernels.Part(part.kind(), part.unit(), kernel(part.of()), part.type());
    }
    if (typed instanceof Typed.Converted converted) {
      return CastKernels.of(kernel(converted.of()), converted.type());
    }
    if (typed instanceof Typed.Stored stored) {
      return Storing.of(kernel(stored.of()), stored.type());
    }
    if (typed instanceof Typed.Choice choice) {
      List<Kernel> values = new ArrayList<>(kernels(choice.values()));
      values.add(kernel(choice.otherwise()));
      return new Choices.Choice(
          choice.tests().stream().map(test -> test(test, false)).toList(), values, choice.type());
    }
    if (typed instanceof Typed.First first) {
      return new Choices.First(kernels(first.parts()), first.type());
    }
    if (typed instanceof Typed.ElementOf element) {
      return new NestedKernels.ElementOf(
          kernel(element.of()), kernel(element.key()), element.type());
    }
    if (typed instanceof Typed.InStruct field) {
      return new NestedKernels.FieldOf(kernel(field.of()), field.position(), field.type());
    }
    TypedTest condition = ((Typed.Truth) typed).test();
    return new Logic.Truth(test(condition, false), test(condition, true));
  }

  private static List<Kernel> kernels(List<Typed> all) {
    return all.stream().map(Compiler::kernel).toList();
  }

  private static Kernel applied(Typed.Applied applied) {
    List<Kernel> of = kernels(applied.parts());
    Operator operator = applied.operator();
    Type type = applied.type();
    Kernel first = of.get(0);
    Kernel second = of.size() > 1 ? of.get(1) : null;
    Kernel third = of.size() > 2 ? of.get(2) : null;
    boolean exact = Numbers.isExact(type);
    return switch (operator) {
      case ADD, SUBTRACT, MULTIPLY, DIVIDE, MOD ->
          type == Types.DOUBLE
              ? new DoubleMath(operator, first, second)
              : exact
                  ? new ExactMath(operator, first, second, type)
                  : new TimeKernels.Moved(operator, first, second, type);
      case NEGATE, ABS ->
          type == Types.DOUBLE
              ? new DoubleMath(operator, first, null)
              : new ExactRounding.Sign(first, operator == Operator.ABS);
      case ROUND ->
          type == Types.DOUBLE
              ? new DoubleMath.Round(first, second)
              : new ExactRounding(first, second, ExactRounding.Way.HALF_UP, type);
      case FLOOR, CEIL ->
          type == Types.DOUBLE
              ? new DoubleMath(operator, first, null)
              : new ExactRounding(
                  first,
                  null,
                  operator == Operator.FLOOR ? ExactRounding.Way.FLOOR : ExactRounding.Way.CEIL,
                  type);
      case POWER, SQRT, EXP, LN -> new DoubleMath(operator, first, second);
      case CONCAT -> new TextKernels.Concat(first, second);
      case UPPER, LOWER -> new TextKernels.Cases(first, operator == Operator.UPPER);
      case TRIM, TRIM_LEADING, TRIM_TRAILING ->
          new TextKernels.Trim(operator, first, second == null ? space() : second);
      case SUBSTRING -> new TextKernels.Substring(first, second, third);
      case POSITION -> new TextCount(first, second);
      case CHAR_LENGTH -> new TextCount(null, first);
      case OVERLAY ->
          new TextKernels.Overlay(first, second, third, of.size() > 3 ? of.get(3) : null);
      case JSON_VALUE, JSON_EXISTS -> new JsonKernel(first, path(applied), type);
      case CARDINALITY -> new NestedKernels.Cardinality(first);
      case ARRAY -> new NestedKernels.ListOf(of, type);
      case COALESCE, NULLIF, CURRENT_TIMESTAMP ->
          throw new IllegalStateException(operator + " has a form of its own");
    };
  }

  private static Kernel space() {
    return new Leaves.OfConstant(new Typed.Constant(" ", Types.text()));
  }

  private static String path(Typed.Applied applied) {
    return (String) ((Typed.Constant) applied.parts().get(1)).value();
  }

  /** A test of a condition, or of its opposite. */
  public static RowTest test(TypedTest test, boolean negated) {
    if (test instanceof TypedTest.All all) {
      return joined(all.parts(), !negated, negated);
    }
    if (test instanceof TypedTest.Any any) {
      return joined(any.parts(), negated, negated);
    }
    if (test instanceof TypedTest.Not not) {
      return test(not.part(), !negated);
    }
    if (test instanceof TypedTest.Compare compare) {
      return new Comparisons.Compare(
          kernel(compare.left()),
          negated ? compare.comparison().negated() : compare.comparison(),
          kernel(compare.right()));
    }
    if (test instanceof TypedTest.Distinct distinct) {
      return new Comparisons.Distinct(kernel(distinct.left()), kernel(distinct.right()), !negated);
    }
    if (test instanceof TypedTest.OneOf oneOf) {
      Kernel[] options = oneOf.options().stream().map(Compiler::kernel).toArray(Kernel[]::new);
      return new OneOf(kernel(oneOf.value()), options, negated);
    }
    if (test instanceof TypedTest.OfNull ofNull) {
      return new Comparisons.OfNull(kernel(ofNull.value()), !negated);
    }
    if (test instanceof TypedTest.Like like) {
      return new Comparisons.Like(
          kernel(like.value()), new LikePattern(like.pattern(), like.escape()), !negated);
    }
    return new Comparisons.Holds(kernel(((TypedTest.Holds) test).value()), !negated);
  }

  /**
   * The parts of AND or OR: first those that cannot fail, the cheap ones before the others, then
   * those that can, in the order in which they are written.
   */
  private static RowTest joined(List<TypedTest> parts, boolean all, boolean negated) {
    List<RowTest> tests =
        parts.stream()
            .sorted(Comparator.comparingInt(Costs::rank))
            .map(part -> test(part, negated))
            .toList();
    return all ? new Logic.All(tests) : new Logic.Any(tests);
  }
}
