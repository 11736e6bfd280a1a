package org.ysteron.sql.plan;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Aggregate;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.core.Sort;
import org.apache.calcite.rel.core.TableScan;
import org.apache.calcite.rel.core.Union;
import org.apache.calcite.rel.core.Values;
import org.apache.calcite.rex.RexCall;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.util.DateString;
import org.ysteron.sql.catalog.PlannedTable;

/**
 * How many rows relations have, and how many different values their fields, as far as the metadata
 * of tables and plain assumptions tell: values are spread evenly, and conditions know nothing of
 * each other. For one query.
 */
final class Estimates {
  private static final double UNKNOWN_ROWS = 1000;
  private static final double GUESS = 0.25;
  private static final double LIKE = 0.1;
  private static final double OF_GROUPS = 0.1;
  private static final double UNIQUE = 0.9;

  private final IdentityHashMap<RelNode, Double> known = new IdentityHashMap<>();

  /** About how many rows there are, one at least. */
  double rows(RelNode rel) {
    Double rows = known.get(rel);
    if (rows == null) {
      rows = Math.max(1, counted(rel));
      known.put(rel, rows);
    }
    return rows;
  }

  private double counted(RelNode rel) {
    if (rel instanceof TableScan scan) {
      return table(scan).map(PlannedTable::rows).orElse(UNKNOWN_ROWS);
    }
    if (rel instanceof Filter filter) {
      return rows(filter.getInput()) * passing(filter.getCondition(), filter.getInput());
    }
    if (rel instanceof Aggregate aggregate) {
      double groups = 1;
      for (int key : aggregate.getGroupSet()) {
        groups *= distinct(aggregate.getInput(), key);
      }
      return Math.min(rows(aggregate.getInput()), groups) * aggregate.getGroupSets().size();
    }
    if (rel instanceof Join join) {
      return joined(join);
    }
    if (rel instanceof Union union) {
      return union.getInputs().stream().mapToDouble(this::rows).sum();
    }
    if (rel instanceof Values values) {
      return values.getTuples().size();
    }
    if (rel instanceof Sort sort && sort.fetch instanceof RexLiteral fetch) {
      BigDecimal most = fetch.getValueAs(BigDecimal.class);
      return Math.min(rows(sort.getInput()), most == null ? UNKNOWN_ROWS : most.doubleValue());
    }
    return rel.getInputs().isEmpty() ? UNKNOWN_ROWS : rows(rel.getInput(0));
  }

  /** A table; the rows of a round of a recursion are none. */
  private static Optional<PlannedTable> table(TableScan scan) {
    return Optional.ofNullable(scan.getTable().unwrap(PlannedTable.class));
  }

  private double joined(Join join) {
    double left = rows(join.getLeft());
    double right = rows(join.getRight());
    double pairs =
        left * right * matching(RelOptUtil.conjunctions(join.getCondition()), pairs(join));
    JoinRelType type = join.getJoinType();
    return switch (type) {
      case SEMI -> Math.min(left, pairs);
      case ANTI -> Math.max(left * LIKE, left - pairs);
      case LEFT, LEFT_MARK -> Math.max(left, type == JoinRelType.LEFT ? pairs : left);
      case RIGHT -> Math.max(right, pairs);
      case FULL -> Math.max(left + right, pairs);
      default -> pairs;
    };
  }

  private static Fields pairs(Join join) {
    int lefts = join.getLeft().getRowType().getFieldCount();
    return field ->
        field < lefts
            ? new Place(join.getLeft(), field)
            : new Place(join.getRight(), field - lefts);
  }

  /** Finds where a field of a condition comes from. */
  interface Fields {
    Place of(int field);
  }

  /** A field of a relation. */
  record Place(RelNode rel, int field) {}

  /** Which share of all pairs pass conditions. */
  double matching(List<RexNode> conditions, Fields fields) {
    double share = 1;
    Map<List<RelNode>, double[]> equal = new HashMap<>();
    for (RexNode condition : conditions) {
      Optional<List<Place>> ends = ends(condition, fields);
      if (ends.isPresent() && condition.getKind() == SqlKind.EQUALS) {
        Place one = ends.get().get(0);
        Place other = ends.get().get(1);
        double[] distinct =
            equal.computeIfAbsent(List.of(one.rel, other.rel), key -> new double[] {1, 1});
        distinct[0] *= distinct(one);
        distinct[1] *= distinct(other);
      } else {
        share *= matching(condition, fields);
      }
    }
    for (Map.Entry<List<RelNode>, double[]> keys : equal.entrySet()) {
      // A key of several fields has no more values than there are rows.
      double ones = rows(keys.getKey().get(0));
      double others = rows(keys.getKey().get(1));
      double one = Math.min(keys.getValue()[0], ones);
      double other = Math.min(keys.getValue()[1], others);
      // Where neither side is known to repeat values, one refers to the other.
      boolean unknown = one > UNIQUE * ones && other > UNIQUE * others;
      share /= unknown ? Math.min(one, other) : Math.max(one, other);
    }
    return share;
  }

  private static Optional<List<Place>> ends(RexNode condition, Fields fields) {
    if (!(condition instanceof RexCall call) || call.getOperands().size() != 2) {
      return Optional.empty();
    }
    Optional<Place> one = place(call.getOperands().get(0), fields);
    Optional<Place> other = place(call.getOperands().get(1), fields);
    if (one.isEmpty() || other.isEmpty()) {
      return Optional.empty();
    }
    boolean turned = one.get().rel.getId() > other.get().rel.getId();
    return Optional.of(turned ? List.of(other.get(), one.get()) : List.of(one.get(), other.get()));
  }

  private double matching(RexNode condition, Fields fields) {
    Optional<List<Place>> ends = ends(condition, fields);
    if (ends.isPresent()) {
      double most = Math.max(distinct(ends.get().get(0)), distinct(ends.get().get(1)));
      return switch (condition.getKind()) {
        case EQUALS, IS_NOT_DISTINCT_FROM -> 1 / most;
        case NOT_EQUALS -> 1 - 1 / Math.max(2, most);
        default -> 1.0 / 3;
      };
    }
    return condition.isAlwaysTrue() ? 1 : GUESS;
  }

  private static Optional<Place> place(RexNode node, Fields fields) {
    RexNode of = RexUtil.removeCast(node);
    return of instanceof RexInputRef input
        ? Optional.of(fields.of(input.getIndex()))
        : Optional.empty();
  }

  private double distinct(Place place) {
    return distinct(place.rel, place.field);
  }

  /** About how many different values a field has. */
  double distinct(RelNode rel, int field) {
    double rows = rows(rel);
    if (rel instanceof TableScan scan) {
      return Math.min(rows, table(scan).map(table -> table.distinct(field)).orElse(rows));
    }
    if (rel instanceof Project project) {
      return project.getProjects().get(field) instanceof RexInputRef input
          ? distinct(project.getInput(), input.getIndex())
          : rows;
    }
    if (rel instanceof Aggregate aggregate) {
      List<Integer> keys = aggregate.getGroupSet().asList();
      return field < keys.size()
          ? Math.min(rows, distinct(aggregate.getInput(), keys.get(field)))
          : rows;
    }
    if (rel instanceof Join join) {
      Place place = pairs(join).of(field);
      return place.field < place.rel.getRowType().getFieldCount()
          ? Math.min(rows, distinct(place))
          : 2;
    }
    if (rel instanceof Filter || rel instanceof Sort) {
      return Math.min(rows, distinct(rel.getInput(0), field));
    }
    return rows;
  }

  /** Which share of the rows pass a condition. */
  private double passing(RexNode condition, RelNode input) {
    if (!(condition instanceof RexCall call)) {
      return condition.isAlwaysTrue() ? 1 : GUESS;
    }
    return switch (condition.getKind()) {
      case AND -> {
        double share = 1;
        for (RexNode part : call.getOperands()) {
          share *= passing(part, input);
        }
        yield share;
      }
      case OR -> {
        double share = 0;
        for (RexNode part : call.getOperands()) {
          share += passing(part, input);
        }
        yield Math.min(1, share);
      }
      case NOT -> 1 - passing(call.getOperands().get(0), input);
      case SEARCH ->
          passing(RexUtil.expandSearch(input.getCluster().getRexBuilder(), null, call), input);
      case LIKE -> LIKE;
      case IS_NOT_NULL -> 1 - LIKE;
      case IS_NULL -> LIKE;
      default -> compared(call, input);
    };
  }

  private double compared(RexCall call, RelNode input) {
    if (call.getOperands().size() != 2) {
      return GUESS;
    }
    RexNode one = RexUtil.removeCast(call.getOperands().get(0));
    RexNode other = call.getOperands().get(1);
    if (!(one instanceof RexInputRef field) || RexUtil.containsInputRef(other)) {
      return matching(call, at -> new Place(input, at));
    }
    double values = distinct(input, field.getIndex());
    return switch (call.getKind()) {
      case EQUALS -> 1 / values;
      case NOT_EQUALS -> 1 - 1 / Math.max(2, values);
      case LESS_THAN, LESS_THAN_OR_EQUAL -> below(input, field.getIndex(), other);
      case GREATER_THAN, GREATER_THAN_OR_EQUAL -> 1 - below(input, field.getIndex(), other);
      default -> GUESS;
    };
  }

  /** Which share of the values of a field lie below a literal. */
  private double below(RelNode input, int field, RexNode literal) {
    Optional<double[]> range = range(input, field);
    Optional<Double> value = number(literal);
    if (isAggregate(input, field)) {
      return 1 - OF_GROUPS; // HAVING most often takes a few groups
    }
    if (range.isEmpty() || value.isEmpty()) {
      return 1.0 / 3;
    }
    double low = range.get()[0];
    double high = range.get()[1];
    double share = (value.get() - low) / Math.max(1e-9, high - low);
    return Math.max(0.001, Math.min(0.999, share));
  }

  private static boolean isAggregate(RelNode rel, int field) {
    return rel instanceof Aggregate aggregate && field >= aggregate.getGroupCount();
  }

  private Optional<double[]> range(RelNode rel, int field) {
    if (rel instanceof TableScan scan) {
      return table(scan).flatMap(table -> table.range(field));
    }
    if (rel instanceof Project project) {
      return project.getProjects().get(field) instanceof RexInputRef input
          ? range(project.getInput(), input.getIndex())
          : Optional.empty();
    }
    return rel instanceof Filter filter ? range(filter.getInput(), field) : Optional.empty();
  }

  private static Optional<Double> number(RexNode node) {
    if (!(RexUtil.removeCast(node) instanceof RexLiteral literal) || literal.isNull()) {
      return Optional.empty();
    }
    return switch (literal.getType().getSqlTypeName()) {
      case INTEGER, BIGINT, DECIMAL, SMALLINT, TINYINT ->
          Optional.ofNullable(literal.getValueAs(BigDecimal.class)).map(BigDecimal::doubleValue);
      case DATE ->
          Optional.ofNullable(literal.getValueAs(DateString.class))
              .map(date -> (double) LocalDate.parse(date.toString()).toEpochDay());
      default -> Optional.empty();
    };
  }
}
