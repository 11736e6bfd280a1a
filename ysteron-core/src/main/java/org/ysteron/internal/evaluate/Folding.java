package org.ysteron.internal.evaluate;

import java.util.List;
import java.util.Optional;
import org.ysteron.internal.compute.Compiler;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.compute.Rows;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;

/** Computes what has no columns once. What fails stays, so that it fails for rows only. */
public final class Folding {
  private Folding() {}

  /** The same with constants in place of what is constant. */
  public static Typed fold(Typed typed) {
    Typed inner = inner(typed);
    boolean constant =
        !(inner instanceof Typed.Constant)
            && !(inner instanceof Typed.OfColumn)
            && inner.parts().stream().allMatch(Typed.Constant.class::isInstance)
            && !(inner instanceof Typed.Truth truth && !isConstant(truth.test()));
    return constant ? value(inner).map(Typed.class::cast).orElse(inner) : inner;
  }

  private static boolean isConstant(TypedTest test) {
    return test.values().stream().allMatch(Typed.Constant.class::isInstance);
  }

  private static Optional<Typed.Constant> value(Typed typed) {
    try {
      Rows one = Rows.of(Optional.empty(), Optional.empty(), 1);
      Held held = Compiler.kernel(typed).eval(one);
      Object value = held.isNull(0) ? null : held.value(0, typed.type()).orElseThrow();
      return Optional.of(new Typed.Constant(value, typed.type()));
    } catch (ComputeException e) {
      return Optional.empty();
    }
  }

  private static List<Typed> all(List<Typed> parts) {
    return parts.stream().map(Folding::fold).toList();
  }

  private static Typed inner(Typed typed) {
    if (typed instanceof Typed.Applied applied) {
      return new Typed.Applied(applied.operator(), all(applied.parts()), applied.type());
    }
    if (typed instanceof Typed.OfTime part) {
      return new Typed.OfTime(part.kind(), part.unit(), fold(part.of()), part.type());
    }
    if (typed instanceof Typed.Converted converted) {
      return new Typed.Converted(fold(converted.of()), converted.type());
    }
    if (typed instanceof Typed.Stored stored) {
      return new Typed.Stored(fold(stored.of()), stored.type());
    }
    if (typed instanceof Typed.Choice choice) {
      return new Typed.Choice(
          choice.tests().stream().map(Folding::fold).toList(),
          all(choice.values()),
          fold(choice.otherwise()),
          choice.type());
    }
    if (typed instanceof Typed.First first) {
      return new Typed.First(all(first.parts()), first.type());
    }
    if (typed instanceof Typed.ElementOf element) {
      return new Typed.ElementOf(fold(element.of()), fold(element.key()), element.type());
    }
    if (typed instanceof Typed.InStruct field) {
      return new Typed.InStruct(fold(field.of()), field.position(), field.type());
    }
    return typed instanceof Typed.Truth truth ? new Typed.Truth(fold(truth.test())) : typed;
  }

  /** The same with constants in place of what is constant. */
  public static TypedTest fold(TypedTest test) {
    if (test instanceof TypedTest.All all) {
      return new TypedTest.All(all.parts().stream().map(Folding::fold).toList());
    }
    if (test instanceof TypedTest.Any any) {
      return new TypedTest.Any(any.parts().stream().map(Folding::fold).toList());
    }
    if (test instanceof TypedTest.Not not) {
      return new TypedTest.Not(fold(not.part()));
    }
    if (test instanceof TypedTest.Compare compare) {
      return new TypedTest.Compare(
          fold(compare.left()), compare.comparison(), fold(compare.right()));
    }
    if (test instanceof TypedTest.Distinct distinct) {
      return new TypedTest.Distinct(fold(distinct.left()), fold(distinct.right()));
    }
    if (test instanceof TypedTest.OneOf oneOf) {
      return new TypedTest.OneOf(fold(oneOf.value()), all(oneOf.options()));
    }
    if (test instanceof TypedTest.OfNull ofNull) {
      return new TypedTest.OfNull(fold(ofNull.value()));
    }
    if (test instanceof TypedTest.Like like) {
      return new TypedTest.Like(fold(like.value()), like.pattern(), like.escape());
    }
    return new TypedTest.Holds(fold(((TypedTest.Holds) test).value()));
  }
}
