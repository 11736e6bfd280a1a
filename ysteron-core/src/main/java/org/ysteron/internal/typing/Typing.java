package org.ysteron.internal.typing;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Call;
import org.ysteron.expr.Case;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Element;
import org.ysteron.expr.Expression;
import org.ysteron.expr.FieldOf;
import org.ysteron.expr.Literal;
import org.ysteron.expr.TimePart;
import org.ysteron.expr.TimeUnit;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.text.NearNames;

/** Finds the columns and the types of an expression. For one thread. */
public final class Typing {
  private final Schema table;
  private final Optional<Schema> source;
  private final Optional<Instant> now;
  private final IdentityHashMap<Expression, Typed> done = new IdentityHashMap<>();
  private Expression wrong;

  /** Expressions on rows of a table. */
  public Typing(Schema table) {
    this(table, Optional.empty());
  }

  /** Expressions on rows of a table and of the source of a merge. */
  public Typing(Schema table, Optional<Schema> source) {
    this(table, source, Optional.empty());
  }

  /**
   * Expressions on rows of a table and of the source of a merge.
   *
   * @param now what CURRENT_TIMESTAMP is; it is refused when it is not known
   */
  public Typing(Schema table, Optional<Schema> source, Optional<Instant> now) {
    this.table = table;
    this.source = source;
    this.now = now;
  }

  /** What could not be typed; empty when nothing was wrong yet. */
  public Optional<Expression> wrong() {
    return Optional.ofNullable(wrong);
  }

  /** The type that an expression has by itself. */
  public Typed type(Expression expression) {
    bounded(expression);
    return of(expression);
  }

  /** A condition. */
  public TypedTest type(Condition condition) {
    bounded(condition);
    return test(condition);
  }

  /**
   * An expression whose value goes to a column: text that is a literal stands for a value of the
   * column's type, and a value of another type must be one that the column takes.
   */
  public Typed type(Expression expression, Type wanted) {
    bounded(expression);
    return fitted(expression, wanted);
  }

  private static void bounded(Expression expression) {
    Limits.size(expression.size(Limits.EXPRESSION_SIZE));
    Limits.expression(expression.depth(Limits.EXPRESSION_DEPTH));
  }

  Typed now() {
    return new Typed.Constant(
        now.orElseThrow(
            () ->
                new InvalidInputException(
                    "CURRENT_TIMESTAMP cannot be used here, because it is another value each time.")),
        Types.INSTANT);
  }

  Typed of(Expression expression) {
    try {
      Typed known = done.get(expression); // parts are asked for again and again
      if (known == null) {
        known = unsafe(expression);
        done.put(expression, known);
      }
      return known;
    } catch (YsteronException e) {
      wrong = wrong == null ? expression : wrong;
      throw e;
    }
  }

  private Typed unsafe(Expression expression) {
    if (expression instanceof Column column) {
      return column(column);
    }
    if (expression instanceof Literal literal) {
      return literal(literal);
    }
    if (expression instanceof Call call) {
      return new Calls(this).of(call);
    }
    if (expression instanceof TimePart part) {
      return part(part);
    }
    if (expression instanceof Cast cast) {
      return cast(cast);
    }
    if (expression instanceof Case choice) {
      return choice(choice);
    }
    if (expression instanceof Element element) {
      return element(element);
    }
    if (expression instanceof FieldOf field) {
      return field(field);
    }
    return new Typed.Truth(test((Condition) expression));
  }

  private Typed column(Column column) {
    boolean given = column.input() == Column.Input.SOURCE;
    if (given && source.isEmpty()) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          column.toString(),
          "There is no column %s; only a merge has a source.".formatted(column));
    }
    Schema schema = given ? source.get() : table;
    return new Typed.OfColumn(column.input(), schema.resolve(column.path()));
  }

  private static Typed literal(Literal literal) {
    Object value = literal.value();
    if (value == null) {
      return new Typed.Constant(null, Types.text());
    }
    Type type =
        literal
            .type()
            .orElseThrow(
                () ->
                    new InvalidInputException(
                        (value instanceof Number
                                ? "The literal %s has more than the 38 digits that a number can have."
                                : "%s is no literal of an expression.")
                            .formatted(Values.show(value))));
    return new Typed.Constant(accepted(value, type), type);
  }

  private static Object accepted(Object value, Type type) {
    if (value instanceof Period || value instanceof Duration) {
      return value;
    }
    return Values.accept(value, type);
  }

  private Typed part(TimePart part) {
    Typed of = of(part.of());
    if (!Conversions.has(of.type(), part.unit())) {
      throw new InvalidInputException(
          "%s is %s and has no %s.".formatted(part.of(), of.type(), part.unit()));
    }
    Type type = of.type();
    if (part.kind() == TimePart.Kind.EXTRACT) {
      type = part.unit() == TimeUnit.SECOND ? Types.decimal(8, 6) : Types.INTEGER;
    }
    return new Typed.OfTime(part.kind(), part.unit(), of, type);
  }

  private Typed cast(Cast cast) {
    if (cast.value() instanceof Literal literal && literal.value() == null) {
      return new Typed.Constant(null, cast.type());
    }
    Typed value = of(cast.value());
    if (value.type().equals(cast.type())) {
      return value;
    }
    if (!Conversions.isCast(value.type(), cast.type())) {
      throw new InvalidInputException(
          "%s (%s) cannot be CAST to %s.".formatted(cast.value(), value.type(), cast.type()));
    }
    return new Typed.Converted(value, cast.type());
  }

  private Typed choice(Case choice) {
    List<Expression> all = new ArrayList<>(choice.values());
    all.add(choice.otherwise());
    if (choice.values().isEmpty()) {
      throw new InvalidInputException("A CASE needs at least one WHEN.");
    }
    Type type = common(all, "values of a CASE");
    List<TypedTest> tests = choice.conditions().stream().map(this::test).toList();
    List<Typed> values = choice.values().stream().map(value -> as(value, type)).toList();
    return new Typed.Choice(tests, values, as(choice.otherwise(), type), type);
  }

  private Typed element(Element element) {
    Typed of = of(element.of());
    if (of.type() instanceof Type.ListOf list) {
      Typed at = of(element.key());
      if (!Numbers.isWhole(at.type())) {
        throw new InvalidInputException(
            "The position %s is %s, not a whole number.".formatted(element.key(), at.type()));
      }
      return new Typed.ElementOf(of, at, list.element().type());
    }
    if (of.type() instanceof Type.MapOf map) {
      return new Typed.ElementOf(of, as(element.key(), map.key().type()), map.value().type());
    }
    throw new InvalidInputException(
        "%s is %s and has no elements.".formatted(element.of(), of.type()));
  }

  private Typed field(FieldOf field) {
    Typed of = of(field.of());
    if (!(of.type() instanceof Type.Struct struct)) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          field.name(),
          "%s is %s and has no field %s.".formatted(field.of(), of.type(), field.name()));
    }
    int at = struct.indexOf(field.name());
    if (at < 0) {
      List<String> names = struct.fields().stream().map(Field::name).toList();
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          field.name(),
          "There is no field %s in %s.%s"
              .formatted(field.name(), field.of(), NearNames.didYouMean(field.name(), names)));
    }
    return new Typed.InStruct(of, at, struct.fields().get(at).type());
  }

  /** The type that takes the values of all expressions. */
  Type common(List<Expression> expressions, String what) {
    Type type = null;
    for (Expression expression : expressions) {
      if (isOpen(expression)) {
        continue;
      }
      Type other = of(expression).type();
      Type before = type;
      type =
          before == null
              ? other
              : Conversions.common(before, other)
                  .orElseThrow(
                      () ->
                          new InvalidInputException(
                              "The %s are %s and %s, which have no common type. CAST one of them."
                                  .formatted(what, before, other)));
    }
    return type == null ? Types.text() : type;
  }

  /** Whether an expression is a literal that takes the type of its place. */
  static boolean isOpen(Expression expression) {
    return expression instanceof Literal literal
        && (literal.value() == null || literal.value() instanceof String);
  }

  /** An expression as one of a type that takes its values. */
  Typed as(Expression expression, Type type) {
    if (expression instanceof Literal literal && isOpen(expression)) {
      return new Typed.Constant(
          literal.value() == null ? null : parsed((String) literal.value(), type), type);
    }
    Typed typed = of(expression);
    return converted(typed, type);
  }

  static Typed converted(Typed typed, Type type) {
    if (typed.type().equals(type)) {
      return typed;
    }
    return new Typed.Converted(typed, type);
  }

  private static Object parsed(String text, Type type) {
    if (type.isNested() || type instanceof Type.Interval) {
      throw new InvalidInputException(
          "%s is text, and %s is needed.".formatted(Values.quote(text), type));
    }
    try {
      if (type instanceof Type.Text) {
        return Values.accept(text, Types.text()); // longer than the limit is equal to nothing
      }
      if (Numbers.isExact(type)) {
        return Decimals.parse(text);
      }
      return type == Types.JSON ? text : ValueText.parse(text, type);
    } catch (NumberFormatException | InvalidInputException e) {
      String hint =
          type == Types.INSTANT ? " Add the time zone, as in '2026-03-01T12:00:00Z'." : "";
      throw new InvalidInputException(
          "%s is not a value of %s.%s".formatted(Values.quote(text), type, hint), e);
    }
  }

  private Typed fitted(Expression expression, Type wanted) {
    if (isOpen(expression) && !wanted.isNested()) {
      Literal literal = (Literal) expression;
      Object value = literal.value();
      return new Typed.Constant(
          value == null ? null : ValueText.parse((String) value, wanted), wanted);
    }
    if (expression instanceof Literal literal && literal.value() == null) {
      return new Typed.Constant(null, wanted);
    }
    Typed typed = of(expression);
    if (typed.type().equals(wanted)) {
      return typed;
    }
    if (!Conversions.isStored(typed.type(), wanted)) {
      wrong = expression;
      throw new InvalidInputException(
          "%s is %s and cannot be stored as %s. CAST it."
              .formatted(expression, typed.type(), wanted));
    }
    return new Typed.Stored(typed, wanted);
  }

  private TypedTest test(Condition condition) {
    try {
      return condition.match(new Tests(this));
    } catch (YsteronException e) {
      wrong = wrong == null ? condition : wrong;
      throw e;
    }
  }

  TypedTest inner(Condition condition) {
    return test(condition);
  }

  /** Both sides of a comparison, an open literal as a value of the other's type. */
  List<Typed> compared(Expression left, Expression right) {
    boolean turned = isOpen(left) && !isOpen(right);
    Expression first = turned ? right : left;
    Expression second = turned ? left : right;
    Typed one = of(first);
    if (one.type().isNested()) {
      throw new InvalidInputException(
          "%s is %s; it can only be tested for null.".formatted(first, one.type()));
    }
    Typed other;
    if (isOpen(second) && !isOpen(first)) {
      other = open((Literal) second, one.type());
    } else {
      other = of(second);
      boolean exact = Numbers.isExact(one.type()) && Numbers.isExact(other.type());
      if (!exact) {
        Optional<Type> common = Conversions.common(one.type(), other.type());
        if (common.isEmpty()) {
          throw incomparable(first, one, second, other);
        }
        Type type = common.get();
        one = converted(one, type);
        other = converted(other, type);
      }
    }
    return turned ? List.of(other, one) : List.of(one, other);
  }

  private static InvalidInputException incomparable(
      Expression left, Typed one, Expression right, Typed other) {
    boolean zones =
        List.of(one.type(), other.type()).contains(Types.INSTANT)
            && List.of(one.type(), other.type()).contains(Types.TIMESTAMP);
    String hint =
        zones
            ? " One has a time zone and the other has none; CAST one, which reads it as UTC."
            : " CAST one of them.";
    return new InvalidInputException(
        "%s (%s) cannot be compared with %s (%s).%s"
            .formatted(left, one.type(), right, other.type(), hint));
  }

  /** A literal of text, or NULL, as a value to compare with; numbers keep all their digits. */
  private static Typed open(Literal literal, Type type) {
    if (literal.value() == null) {
      return new Typed.Constant(null, type);
    }
    Object value = parsed((String) literal.value(), type);
    if (value instanceof BigDecimal number) {
      return literal(new Literal(number));
    }
    return new Typed.Constant(value, type.isText() ? Types.text() : type);
  }
}
