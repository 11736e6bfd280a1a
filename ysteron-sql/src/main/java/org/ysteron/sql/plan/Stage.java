package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.typing.Typing;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ProjectStep;
import org.ysteron.sql.run.ScanStep;

/**
 * Steps that make rows, and the values of the fields of a relation, which are not computed before
 * somebody needs them.
 *
 * @param fields expressions on the columns of the step
 */
public record Stage(Step step, List<Expression> fields) {

  /** The columns of a step as they are. */
  public static Stage of(Step step) {
    List<Expression> fields = new ArrayList<>();
    step.columns().columns().forEach(column -> fields.add(column(column.name())));
    return new Stage(step, fields);
  }

  public static Column column(String name) {
    return new Column(Schema.path(List.of(name)));
  }

  /** The type of an expression on the columns of the step. */
  public Type type(Expression expression) {
    return new Typing(step.columns(), Optional.empty(), Optional.empty()).type(expression).type();
  }

  public List<Type> types() {
    return fields.stream().map(this::type).toList();
  }

  /** The step, which reads no columns but those that some expressions need. */
  public Step reading(List<? extends Expression> used) {
    if (!(step instanceof ScanStep scan)) {
      return step;
    }
    Set<String> paths = new LinkedHashSet<>();
    used.forEach(expression -> paths.addAll(ScanStep.byPath(expression).columns()));
    return scan.reading(List.copyOf(paths));
  }

  /** The same with its fields as the columns of a step. */
  public Stage whole() {
    List<Type> types = types();
    noIntervals(types);
    return of(new ProjectStep(reading(fields), fields, Made.schema(types)));
  }

  /** Refuses columns that would be intervals. */
  static void noIntervals(List<Type> types) {
    if (types.stream().anyMatch(Type.Interval.class::isInstance)) {
      throw new InvalidInputException(
          "An interval cannot be a column of a result. EXTRACT a part of it, or add it to a time.");
    }
  }

  static List<String> names(Schema columns) {
    return columns.columns().stream().map(Field::name).toList();
  }

  /** An expression as one of a type; texts of every length are alike. */
  public Expression as(Expression expression, Type type) {
    boolean isNull = expression instanceof Literal literal && literal.value() == null;
    Type own = type(expression);
    boolean same =
        own.equals(type)
            || (own.isText() && type.isText())
            || (own.isNested() && type.isNested())
            || type instanceof Type.Interval;
    return same && !isNull ? expression : new org.ysteron.expr.Cast(expression, type);
  }

  /** The type in which two values are compared; empty when they are not comparable. */
  static Optional<Type> common(Type one, Type other) {
    if (one.equals(other) || (one.isText() && other.isText())) {
      return Optional.of(one.isText() ? Types.text() : one);
    }
    Optional<Type> exact = org.ysteron.data.Widening.common(one, other);
    boolean numbers = one.isNumber() && other.isNumber();
    return exact.isPresent() ? exact : numbers ? Optional.of(Types.DOUBLE) : exact;
  }
}
