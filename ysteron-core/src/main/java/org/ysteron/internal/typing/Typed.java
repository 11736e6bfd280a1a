package org.ysteron.internal.typing;

import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.expr.Column;
import org.ysteron.expr.Operator;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;

/** An expression whose columns are found and whose types are known. Immutable. */
public sealed interface Typed {

  Type type();

  /** The typed values directly inside, those of conditions among them. */
  List<Typed> parts();

  /**
   * A column.
   *
   * @param along the fields along its path
   */
  record OfColumn(Column.Input input, List<Field> along) implements Typed {
    /** The field itself. */
    public Field field() {
      return along.get(along.size() - 1);
    }

    @Override
    public Type type() {
      return field().type();
    }

    @Override
    public List<Typed> parts() {
      return List.of();
    }
  }

  /**
   * The same value for every row.
   *
   * @param value an accepted value of the type, or null
   */
  record Constant(Object value, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of();
    }
  }

  /** An operator or function. */
  record Applied(Operator operator, List<Typed> parts, Type type) implements Typed {}

  /** A part, the beginning or the end of a date or time. */
  record OfTime(TimePart.Kind kind, TimeUnit unit, Typed of, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of(of);
    }
  }

  /** A value as one of another type. */
  record Converted(Typed of, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of(of);
    }
  }

  /**
   * A value that goes to a column of another type, which takes it only if nothing of it is lost.
   */
  record Stored(Typed of, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of(of);
    }
  }

  /** The value of the first condition that is true. */
  record Choice(List<TypedTest> tests, List<Typed> values, Typed otherwise, Type type)
      implements Typed {
    @Override
    public List<Typed> parts() {
      List<Typed> parts = new java.util.ArrayList<>(values);
      parts.add(otherwise);
      tests.forEach(test -> parts.addAll(test.values()));
      return parts;
    }
  }

  /** The first value that is not null. */
  record First(List<Typed> parts, Type type) implements Typed {}

  /** An element of a list, or a map's value of a key. */
  record ElementOf(Typed of, Typed key, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of(of, key);
    }
  }

  /** A field of a struct. */
  record InStruct(Typed of, int position, Type type) implements Typed {
    @Override
    public List<Typed> parts() {
      return List.of(of);
    }
  }

  /** True, false, or null where a condition is unknown. */
  record Truth(TypedTest test) implements Typed {
    @Override
    public Type type() {
      return org.ysteron.data.Types.BOOLEAN;
    }

    @Override
    public List<Typed> parts() {
      return test.values();
    }
  }
}
