package org.ysteron.internal.typing;

import java.util.ArrayList;
import java.util.List;
import java.util.OptionalInt;
import org.ysteron.expr.Condition;

/** A condition whose types are known; both sides of a comparison have types that compare. */
public sealed interface TypedTest {

  /** The values inside, those of inner conditions among them. */
  List<Typed> values();

  /** Two values compared. */
  record Compare(Typed left, Condition.Comparison comparison, Typed right) implements TypedTest {
    @Override
    public List<Typed> values() {
      return List.of(left, right);
    }
  }

  /** Whether two values differ, null being equal to null. */
  record Distinct(Typed left, Typed right) implements TypedTest {
    @Override
    public List<Typed> values() {
      return List.of(left, right);
    }
  }

  /** Whether a value is one of some. */
  record OneOf(Typed value, List<Typed> options) implements TypedTest {
    @Override
    public List<Typed> values() {
      List<Typed> values = new ArrayList<>(options);
      values.add(value);
      return values;
    }
  }

  /** Whether a value is null. */
  record OfNull(Typed value) implements TypedTest {
    @Override
    public List<Typed> values() {
      return List.of(value);
    }
  }

  /** Whether a text has the form of a pattern. */
  record Like(Typed value, String pattern, OptionalInt escape) implements TypedTest {
    @Override
    public List<Typed> values() {
      return List.of(value);
    }
  }

  /** Whether a boolean is true. */
  record Holds(Typed value) implements TypedTest {
    @Override
    public List<Typed> values() {
      return List.of(value);
    }
  }

  /** AND. */
  record All(List<TypedTest> parts) implements TypedTest {
    @Override
    public List<Typed> values() {
      return parts.stream().flatMap(part -> part.values().stream()).toList();
    }
  }

  /** OR. */
  record Any(List<TypedTest> parts) implements TypedTest {
    @Override
    public List<Typed> values() {
      return parts.stream().flatMap(part -> part.values().stream()).toList();
    }
  }

  /** NOT. */
  record Not(TypedTest part) implements TypedTest {
    @Override
    public List<Typed> values() {
      return part.values();
    }
  }
}
