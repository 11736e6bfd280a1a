package org.ysteron.internal.typing;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;

/** Types the kinds of conditions. */
final class Tests implements Condition.Cases<TypedTest> {
  private final Typing typing;

  Tests(Typing typing) {
    this.typing = typing;
  }

  private List<TypedTest> all(List<Condition> parts) {
    return parts.stream().map(typing::inner).toList();
  }

  @Override
  public TypedTest compare(Condition.Compare test) {
    List<Typed> sides = typing.compared(test.left(), test.right());
    return new TypedTest.Compare(sides.get(0), test.comparison(), sides.get(1));
  }

  @Override
  public TypedTest distinct(Condition.Distinct test) {
    List<Typed> sides = typing.compared(test.left(), test.right());
    return new TypedTest.Distinct(sides.get(0), sides.get(1));
  }

  @Override
  public TypedTest in(Condition.In test) {
    Typed value = typing.of(test.value());
    List<Typed> options = new ArrayList<>(test.options().size());
    for (Expression option : test.options()) {
      List<Typed> sides = typing.compared(test.value(), option);
      if (!sides.get(0).equals(value)) {
        return any(test); // an option is compared in a type of its own
      }
      options.add(sides.get(1));
    }
    return new TypedTest.OneOf(value, options);
  }

  private TypedTest any(Condition.In test) {
    return new TypedTest.Any(
        test.options().stream()
            .map(
                option ->
                    typing.inner(
                        new Condition.Compare(test.value(), Condition.Comparison.EQUAL, option)))
            .toList());
  }

  @Override
  public TypedTest isNull(Condition.IsNull test) {
    return new TypedTest.OfNull(typing.of(test.value()));
  }

  @Override
  public TypedTest like(Condition.Like test) {
    Typed value = typing.of(test.value());
    if (!value.type().isText()) {
      throw new InvalidInputException(
          "%s is %s; LIKE compares text.".formatted(test.value(), value.type()));
    }
    return new TypedTest.Like(value, test.pattern(), test.escape());
  }

  @Override
  public TypedTest holds(Condition.Holds test) {
    Typed value =
        Typing.isOpen(test.value())
            ? typing.as(test.value(), Types.BOOLEAN)
            : typing.of(test.value());
    if (value.type() != Types.BOOLEAN) {
      throw new InvalidInputException(
          "%s is %s, not a condition.".formatted(test.value(), value.type()));
    }
    return value instanceof Typed.Truth truth ? truth.test() : new TypedTest.Holds(value);
  }

  @Override
  public TypedTest and(Condition.And test) {
    return new TypedTest.All(all(test.conditions()));
  }

  @Override
  public TypedTest or(Condition.Or test) {
    return new TypedTest.Any(all(test.conditions()));
  }

  @Override
  public TypedTest unknown(Condition.Unknown test) {
    throw new UnsupportedLakeException(
        "expressions",
        "The condition %s has a form that this program does not know. Use a newer Ysteron."
            .formatted(test));
  }

  @Override
  public TypedTest not(Condition.Not test) {
    return new TypedTest.Not(typing.inner(test.part()));
  }
}
