package org.ysteron.internal.filter;

import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Literal;
import org.ysteron.internal.evaluate.Folding;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;
import org.ysteron.internal.typing.Typing;

/**
 * Turns a condition into tests. What compares a column with literals, or can be solved for a
 * column, becomes intervals of the column's ordered domain; the rest is computed for each row.
 */
final class Binder {
  private static final BoundTest NEVER = new BoundTest.Or(List.of());
  private static final BoundTest ANY = new BoundTest.And(List.of());
  private static final int MOST_SOLVED = 1000;

  private final Schema schema;
  private final Typing typing;

  Binder(Schema schema) {
    this.schema = schema;
    this.typing = new Typing(schema);
  }

  /** Binds a condition, or its opposite. */
  BoundTest bind(Condition condition, boolean negated) {
    return condition.match(new Cases(negated));
  }

  private final class Cases implements Condition.Cases<BoundTest> {
    private final boolean negated;

    Cases(boolean negated) {
      this.negated = negated;
    }

    private List<BoundTest> all(List<Condition> parts) {
      return parts.stream().map(part -> part.match(this)).toList();
    }

    private Condition.Comparison meant(Condition.Comparison comparison) {
      return negated ? comparison.negated() : comparison;
    }

    @Override
    public BoundTest not(Condition.Not test) {
      return bind(test.part(), !negated);
    }

    @Override
    public BoundTest and(Condition.And test) {
      List<BoundTest> parts = all(test.conditions());
      return negated ? BoundTest.any(BoundTest.ordered(parts)) : allOf(parts);
    }

    @Override
    public BoundTest or(Condition.Or test) {
      List<BoundTest> parts = all(test.conditions());
      return negated ? allOf(parts) : BoundTest.any(BoundTest.ordered(parts));
    }

    @Override
    public BoundTest unknown(Condition.Unknown test) {
      return computed(test, negated); // which says that it cannot be tested
    }

    @Override
    public BoundTest isNull(Condition.IsNull test) {
      return test.value() instanceof Column column && isOfTable(column)
          ? new BoundTest.OfNull(schema.resolve(column.path()), !negated)
          : computed(test, negated);
    }

    @Override
    public BoundTest compare(Condition.Compare test) {
      Condition.Comparison comparison = meant(test.comparison());
      if (test.left() instanceof Column column && isOfTable(column)) {
        if (test.right() instanceof Literal literal) {
          return withLiteral(column, comparison, literal, test);
        }
        if (test.right() instanceof Column other && isOfTable(other)) {
          return pair(column.path(), comparison, other.path(), test, negated);
        }
      }
      if (test.right() instanceof Column column
          && isOfTable(column)
          && test.left() instanceof Literal literal) {
        return withLiteral(column, comparison.turned(), literal, test);
      }
      return computed(test, negated);
    }

    /** A literal of another type than the column's may still compare with it. */
    private BoundTest withLiteral(
        Column column, Condition.Comparison comparison, Literal literal, Condition.Compare test) {
      List<Field> along = comparable(column.path());
      boolean widens =
          along.get(along.size() - 1).type() == Types.DATE
              && literal.value() instanceof LocalDateTime;
      return widens
          ? computed(test, negated)
          : LiteralTests.compare(along, comparison, literal.value());
    }

    @Override
    public BoundTest distinct(Condition.Distinct test) {
      if (test.left() instanceof Column column
          && isOfTable(column)
          && test.right() instanceof Literal literal) {
        List<Field> along = comparable(column.path());
        if (literal.value() == null) {
          return new BoundTest.OfNull(along, negated);
        }
        return negated
            ? LiteralTests.compare(along, Condition.Comparison.EQUAL, literal.value())
            : new BoundTest.Or(
                List.of(
                    LiteralTests.compare(along, Condition.Comparison.NOT_EQUAL, literal.value()),
                    new BoundTest.OfNull(along, true)));
      }
      return computed(test, negated);
    }

    @Override
    public BoundTest in(Condition.In test) {
      boolean literals = test.options().stream().allMatch(Literal.class::isInstance);
      if (test.value() instanceof Column column && isOfTable(column) && literals) {
        List<Object> values = new ArrayList<>(test.options().size());
        test.options().forEach(option -> values.add(((Literal) option).value()));
        return LiteralTests.in(comparable(column.path()), values, negated);
      }
      return test.options().isEmpty() ? never(negated) : computed(test, negated);
    }

    @Override
    public BoundTest like(Condition.Like test) {
      if (!(test.value() instanceof Column column) || !isOfTable(column)) {
        return computed(test, negated);
      }
      List<Field> along = comparable(column.path());
      Type type = along.get(along.size() - 1).type();
      if (!type.isText()) {
        throw InvalidInputException.ofColumn(
            column.path(),
            "Column %s is %s; only text can start with %s or be LIKE %s."
                .formatted(
                    column.path(),
                    type,
                    Values.quote(test.prefix()),
                    Values.quote(test.pattern())));
      }
      Values.accept(test.pattern(), Types.text());
      Optional<String> only = test.onlyText();
      if (only.isPresent() && type != Types.JSON) { // a pattern need not be a document
        return LiteralTests.compare(along, meant(Condition.Comparison.EQUAL), only.get());
      }
      BoundTest start = LiteralTests.prefix(along, test.prefix(), negated);
      if (test.onlyPrefix().isPresent()) {
        return start;
      }
      TypedTest typed = typing.type((Condition) test);
      return negated
          ? new BoundComputed(new TypedTest.Not(typed), ANY)
          : new BoundComputed(typed, start);
    }

    @Override
    public BoundTest holds(Condition.Holds test) {
      if (test.value() instanceof Column column && isOfTable(column)) {
        List<Field> along = schema.resolve(column.path());
        Type type = along.get(along.size() - 1).type();
        if (type == Types.BOOLEAN) {
          return LiteralTests.compare(along, meant(Condition.Comparison.EQUAL), true);
        }
      }
      return computed(test, negated);
    }
  }

  private static BoundTest allOf(List<BoundTest> parts) {
    return BoundTest.all(BoundTest.ordered(NumberIntervals.joined(parts)));
  }

  private static boolean isOfTable(Column column) {
    return column.input() == Column.Input.TABLE;
  }

  private static BoundTest never(boolean negated) {
    return negated ? ANY : NEVER;
  }

  /** A condition that is computed, as tests of a column where it can be solved. */
  private BoundTest computed(Condition condition, boolean negated) {
    TypedTest test = Folding.fold(typing.type(condition));
    if (test instanceof TypedTest.Compare compare && negated) {
      test = new TypedTest.Compare(compare.left(), compare.comparison().negated(), compare.right());
    } else if (negated) {
      test = new TypedTest.Not(test);
    }
    if (test instanceof TypedTest.OneOf oneOf) {
      return oneOf(oneOf);
    }
    return Spans.withConstant(test).map(this::withConstant).orElse(new BoundComputed(test, ANY));
  }

  private BoundTest withConstant(TypedTest.Compare test) {
    Typed.Constant constant = (Typed.Constant) test.right();
    if (constant.value() == null) {
      return NEVER;
    }
    if (test.left() instanceof Typed.OfColumn column) {
      return LiteralTests.compare(column.along(), test.comparison(), constant.value());
    }
    if (test.left() instanceof Typed.Constant) {
      long[] bits = new long[1];
      Batch one = new Batch(new Type.Struct(List.of()), 1, List.of());
      new Selecting(test).select(one, bits);
      return never(bits[0] != 0);
    }
    return Solving.solve(test)
        .map(answer -> solved(test, answer))
        .orElse(new BoundComputed(test, ANY));
  }

  private static BoundTest solved(TypedTest test, Solving.Answer answer) {
    return answer.failing().isEmpty()
        ? answer.sure()
        : new BoundComputed(test, answer.possible(), answer.sure());
  }

  /** An expression that is one of some constants: where each of them can be. */
  private BoundTest oneOf(TypedTest.OneOf test) {
    List<BoundTest> pruning = new ArrayList<>();
    boolean few = test.options().size() <= MOST_SOLVED;
    for (Typed option : few ? test.options() : List.<Typed>of()) {
      if (!(option instanceof Typed.Constant constant)) {
        return new BoundComputed(test, ANY);
      }
      if (constant.value() != null) {
        BoundTest one =
            withConstant(new TypedTest.Compare(test.value(), Condition.Comparison.EQUAL, constant));
        pruning.add(one instanceof BoundComputed computed ? computed.pruning() : one);
      }
    }
    return new BoundComputed(test, few ? new BoundTest.Or(pruning) : ANY);
  }

  private BoundTest pair(
      String left,
      Condition.Comparison comparison,
      String right,
      Condition.Compare test,
      boolean negated) {
    List<Field> one = comparable(left);
    List<Field> other = comparable(right);
    return Widening.common(one.get(one.size() - 1).type(), other.get(other.size() - 1).type())
        .map(type -> (BoundTest) new BoundPair(one, comparison, other, type))
        .orElseGet(() -> computed(test, negated));
  }

  private List<Field> comparable(String path) {
    List<Field> along = schema.resolve(path);
    Type type = along.get(along.size() - 1).type();
    if (type.isNested()) {
      throw InvalidInputException.ofColumn(
          path, "Column %s is %s; it can only be tested for null.".formatted(path, type));
    }
    return along;
  }
}
