package org.ysteron.sql.join;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.FilterStep;
import org.ysteron.sql.run.ProjectStep;
import org.ysteron.sql.run.Renaming;
import org.ysteron.sql.run.ScanStep;

/**
 * What the keys of the rows that a join keeps say of the rows that go past them: those of other
 * keys have no partner. Scans below skip them, and files, row groups and pages that have no others.
 */
final class KeyFilters {
  /** With more keys there is only a range of them. */
  private static final int MOST_KEYS = 200;

  private KeyFilters() {}

  /** The left side of a join, without rows that have no partner as far as its scans can tell. */
  static Step restricted(JoinStep join, Keys keys, List<Type> types) {
    Step left = join.left();
    if (!join.kind().needsPartner() || join.nullsMeet()) {
      return left;
    }
    for (int k = 0; k < types.size(); k++) {
      if (isRestricting(types.get(k))) {
        left = restricted(left, join.leftKeys().get(k), keys, k, types.get(k));
      }
    }
    return left;
  }

  private static boolean isRestricting(Type type) {
    return !type.isNested() && type != Types.DOUBLE && type != Types.REAL && type != Types.JSON;
  }

  private static Step restricted(Step step, Expression key, Keys keys, int part, Type type) {
    if (!pushes(step, key)) {
      return step;
    }
    boolean isOrdered = type != Types.BOOLEAN && type != Types.UUID && type != Types.BINARY;
    int count = keys.count();
    if (count > MOST_KEYS && (type.isText() || !isOrdered)) {
      return step;
    }
    Vector values = keys.part(part, 0, count);
    if (count > MOST_KEYS) {
      return range(step, key, values);
    }
    Set<Object> different = new LinkedHashSet<>();
    List<Expression> options = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      Object value = values.get(i);
      if (value != null && (value instanceof byte[] || different.add(value))) {
        options.add(new Literal(value));
      }
    }
    return options.isEmpty() ? step : pushed(step, new Condition.In(key, options), key);
  }

  @SuppressWarnings({"unchecked", "rawtypes"}) // values of one type that has an order
  private static Step range(Step step, Expression key, Vector values) {
    Comparable least = null;
    Comparable greatest = null;
    for (int i = 0; i < values.size(); i++) {
      Comparable value = (Comparable) values.get(i);
      if (value != null) {
        least = least == null || value.compareTo(least) < 0 ? value : least;
        greatest = greatest == null || value.compareTo(greatest) > 0 ? value : greatest;
      }
    }
    return least == null ? step : pushed(step, key.between(least, greatest), key);
  }

  /** Whether a condition on a key comes down to a scan. */
  private static boolean pushes(Step step, Expression key) {
    return pushed(step, new Condition.IsNull(key), key) != step;
  }

  /** A step where a condition on a key is tested by the scan that the key comes from. */
  private static Step pushed(Step step, Condition condition, Expression key) {
    if (step instanceof ScanStep scan) {
      return scan.counted() ? scan : scan.where(condition).expecting(scan.expected());
    }
    if (step instanceof FilterStep filter) {
      Step input = pushed(filter.input(), condition, key);
      return input == filter.input() ? step : filter.over(input);
    }
    if (step instanceof ProjectStep project) {
      Expression below = inside(key, project);
      Step input = pushed(project.input(), (Condition) inside(condition, project), below);
      return input == project.input() ? step : project.over(input);
    }
    if (step instanceof JoinStep join && keepsLeft(join) && isOfLeft(key, join)) {
      Condition below = (Condition) renamed(condition, join);
      Step left = pushed(join.left(), below, renamed(key, join));
      return left == join.left() ? step : join.over(left);
    }
    return step;
  }

  private static Expression inside(Expression expression, ProjectStep project) {
    return expression.each(
        part -> {
          if (!(part instanceof Column column)) {
            return part;
          }
          List<String> names = Schema.parsePath(column.path());
          Expression computed = project.expressions().get(project.columns().indexOf(names.get(0)));
          for (String field : names.subList(1, names.size())) {
            computed = new org.ysteron.expr.FieldOf(computed, field);
          }
          return computed;
        });
  }

  private static boolean keepsLeft(JoinStep join) {
    return switch (join.kind()) {
      case INNER, LEFT, SEMI, ANTI, MARK -> true;
      default -> false;
    };
  }

  private static boolean isOfLeft(Expression key, JoinStep join) {
    int lefts = join.left().columns().columns().size();
    return key.columns().stream()
        .allMatch(path -> join.columns().indexOf(Schema.parsePath(path).get(0)) < lefts);
  }

  private static Expression renamed(Expression expression, JoinStep join) {
    return Renaming.of(expression, join.columns(), join.left().columns(), 0);
  }
}
