package org.ysteron.sql.inside;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;

/**
 * Which rows of a table are wanted, as far as conditions on single columns tell. Immutable.
 *
 * @param condition what all wanted rows fulfil
 */
public record Wanted(Condition condition) {
  /** All rows. */
  public static final Wanted ALL = new Wanted(Condition.all());

  /** The same, of which another condition is true as well. */
  public Wanted and(Condition also) {
    return new Wanted(condition.and(also));
  }

  private static List<Condition> parts(Condition condition) {
    List<Condition> parts = new ArrayList<>();
    if (condition instanceof Condition.And and) {
      and.conditions().forEach(part -> parts.addAll(parts(part)));
    } else {
      parts.add(condition);
    }
    return parts;
  }

  /** The only values that a column of a wanted row may have; empty when all may be. */
  Optional<Set<Object>> values(String column) {
    return parts(condition).stream()
        .map(part -> values(part, column))
        .flatMap(Optional::stream)
        .reduce(
            (one, other) -> {
              Set<Object> both = new HashSet<>(one);
              both.retainAll(other);
              return both;
            });
  }

  private static Optional<Set<Object>> values(Condition part, String column) {
    if (part instanceof Condition.Compare compare
        && compare.comparison() == Condition.Comparison.EQUAL) {
      return is(compare.left(), column)
          ? literals(List.of(compare.right()))
          : is(compare.right(), column) ? literals(List.of(compare.left())) : Optional.empty();
    }
    if (part instanceof Condition.In in && is(in.value(), column)) {
      return literals(in.options());
    }
    if (part instanceof Condition.Or or) {
      List<Optional<Set<Object>>> all =
          or.conditions().stream().map(one -> new Wanted(one).values(column)).toList();
      return all.stream().allMatch(Optional::isPresent)
          ? Optional.of(all.stream().flatMap(one -> one.get().stream()).collect(Collectors.toSet()))
          : Optional.empty();
    }
    return Optional.empty();
  }

  private static boolean is(Expression expression, String column) {
    return expression instanceof Column of && of.path().equals(column);
  }

  private static Optional<Set<Object>> literals(List<Expression> of) {
    boolean all =
        of.stream().allMatch(one -> one instanceof Literal literal && literal.value() != null);
    return all
        ? Optional.of(of.stream().map(one -> ((Literal) one).value()).collect(Collectors.toSet()))
        : Optional.empty();
  }

  /** The least whole number that a column of a wanted row may have; empty when all may be. */
  OptionalLong least(String column) {
    return parts(condition).stream()
        .map(part -> least(part, column))
        .flatMapToLong(OptionalLong::stream)
        .max();
  }

  private static OptionalLong least(Condition part, String column) {
    if (!(part instanceof Condition.Compare compare)) {
      return OptionalLong.empty();
    }
    boolean straight = is(compare.left(), column);
    Expression value = straight ? compare.right() : compare.left();
    if (!(straight || is(compare.right(), column))
        || !(value instanceof Literal literal)
        || !(literal.value() instanceof Integer || literal.value() instanceof Long)) {
      return OptionalLong.empty();
    }
    long number = ((Number) literal.value()).longValue();
    return switch (compare.comparison()) {
      case EQUAL -> OptionalLong.of(number);
      case AT_LEAST -> straight ? OptionalLong.of(number) : OptionalLong.empty();
      case AT_MOST -> straight ? OptionalLong.empty() : OptionalLong.of(number);
      case GREATER -> straight ? above(number) : OptionalLong.empty();
      case LESS -> straight ? OptionalLong.empty() : above(number);
      case NOT_EQUAL -> OptionalLong.empty();
    };
  }

  private static OptionalLong above(long number) {
    return OptionalLong.of(number == Long.MAX_VALUE ? number : number + 1);
  }

  /** A test of the values of a column, to be made before rows of it are looked at. */
  Predicate<Object> test(String column) {
    Optional<Set<Object>> values = values(column);
    return value -> values.isEmpty() || values.get().contains(value);
  }
}
