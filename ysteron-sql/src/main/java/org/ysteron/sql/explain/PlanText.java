package org.ysteron.sql.explain;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.inside.ChangesStep;
import org.ysteron.sql.inside.FileStep;
import org.ysteron.sql.inside.InsideStep;
import org.ysteron.sql.join.EachStep;
import org.ysteron.sql.join.JoinStep;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.AggregateStep;
import org.ysteron.sql.run.FilterStep;
import org.ysteron.sql.run.LimitStep;
import org.ysteron.sql.run.ProjectStep;
import org.ysteron.sql.run.RecursionStep;
import org.ysteron.sql.run.RoundStep;
import org.ysteron.sql.run.RowsStep;
import org.ysteron.sql.run.ScanStep;
import org.ysteron.sql.run.SetStep;
import org.ysteron.sql.run.SortStep;
import org.ysteron.sql.run.UnionStep;
import org.ysteron.sql.run.UnnestStep;
import org.ysteron.sql.run.ValuesStep;
import org.ysteron.sql.window.WindowStep;

/**
 * The steps of a query in words, each above those whose rows it takes. Columns are called by what
 * they are computed from. For one query.
 */
final class PlanText {
  private static final String INDENT = "  ";

  private final List<Line> lines = new ArrayList<>();

  /** A step in words; {@code details}: what else there is to say of it, a line each. */
  record Line(Step step, String text, List<String> details) {}

  /** A line for each step that does something. */
  List<Line> lines(Step step) {
    tell(step, 0);
    return lines;
  }

  /** Tells a step at a depth; what its columns are called. */
  private Names tell(Step step, int depth) {
    if (step instanceof ProjectStep project && project.isPlain()) {
      return tell(project.input(), depth).of(project.expressions(), project.input().columns());
    }
    int place = lines.size();
    lines.add(new Line(step, "", List.of()));
    Told told = told(step, depth);
    List<String> details =
        told.details.stream().map(detail -> INDENT.repeat(depth + 2) + detail).toList();
    lines.set(place, new Line(step, INDENT.repeat(depth) + told.text, details));
    return told.names;
  }

  /** What is told of a step, whose inputs were told. */
  private record Told(String text, List<String> details, Names names) {
    Told(String text, Names names) {
      this(text, List.of(), names);
    }
  }

  private Told told(Step step, int depth) {
    if (step instanceof ScanStep scan) {
      return scan(scan);
    }
    if (step instanceof FilterStep filter) {
      Names names = tell(filter.input(), depth + 1);
      return new Told("filter " + names.text(filter.condition(), filter.columns()), names);
    }
    if (step instanceof ProjectStep project) {
      Names of = tell(project.input(), depth + 1);
      Names names = of.of(project.expressions(), project.input().columns());
      return new Told("compute " + names.computed(project), names);
    }
    if (step instanceof AggregateStep aggregate) {
      return aggregate(aggregate, depth);
    }
    if (step instanceof JoinStep join) {
      return join(join, depth);
    }
    if (step instanceof SortStep sort) {
      Names names = tell(sort.input(), depth + 1);
      String most = sort.most() == Long.MAX_VALUE ? "" : ", first " + sort.most() + " rows";
      return new Told("sort by " + orders(sort.orders(), names) + most, names);
    }
    if (step instanceof LimitStep limit) {
      Names names = tell(limit.input(), depth + 1);
      String offset = limit.offset() == 0 ? "" : "skip " + limit.offset() + " rows";
      String most = limit.limit() == Long.MAX_VALUE ? "" : "at most " + limit.limit() + " rows";
      String both = offset.isEmpty() || most.isEmpty() ? offset + most : offset + ", " + most;
      return new Told(both, names);
    }
    if (step instanceof WindowStep window) {
      Names names = tell(window.input(), depth + 1);
      return new Told("window functions " + WindowText.of(window, names), names.and(window));
    }
    if (step instanceof EachStep each) {
      Names names = tell(each.left(), depth + 1);
      tell(each.shape().right(), depth + 1);
      String kind = kind(each.shape().kind());
      return new Told("for each row: " + kind, names.and(each));
    }
    return other(step, depth);
  }

  private Told other(Step step, int depth) {
    if (step instanceof UnnestStep unnest) {
      Names names = tell(unnest.input(), depth + 1);
      String lists = names.list(unnest.collections(), unnest.input().columns());
      return new Told("unnest " + lists, names.and(unnest));
    }
    List<Names> all = step.inputs().stream().map(input -> tell(input, depth + 1)).toList();
    Names names = all.isEmpty() ? Names.of(step.columns()) : all.get(0);
    if (step instanceof UnionStep) {
      return new Told("all rows of", names);
    }
    if (step instanceof SetStep set) {
      String kind = set.isIntersect() ? "intersect" : "except";
      return new Told(kind + (set.all() ? " all" : ""), names);
    }
    if (step instanceof ValuesStep values) {
      return new Told(rows(values.rows().size()) + " of values", names);
    }
    if (step instanceof RecursionStep recursion) {
      return new Told(
          "recursion " + recursion.name() + (recursion.all() ? "" : ", new rows"), names);
    }
    if (step instanceof RoundStep round) {
      return new Told("rows of the round before of " + round.name(), names);
    }
    if (step instanceof InsideStep inside) {
      String where = where(inside.wanted().condition(), names, inside.columns());
      return new Told("list " + inside.table().name() + where, names);
    }
    if (step instanceof ChangesStep changes) {
      return new Told(
          "changes of %s from version %d to %d"
              .formatted(
                  changes.table(),
                  changes.changes().from().version(),
                  changes.changes().to().version()),
          names);
    }
    if (step instanceof FileStep file) {
      return new Told("read file " + file.name(), names);
    }
    return new Told(
        step instanceof RowsStep rows
            ? rows(rows.rows().size()) + " " + rows.what()
            : step.getClass().getSimpleName().toLowerCase(Locale.ROOT),
        names);
  }

  private static String rows(int count) {
    return count == 1 ? "1 row" : count + " rows";
  }

  private static String where(Condition condition, Names names, Schema columns) {
    return condition.equals(Condition.all()) ? "" : " where " + names.text(condition, columns);
  }

  private static Told scan(ScanStep scan) {
    ScanText text = new ScanText(scan.scan().explain());
    Names names = Names.of(scan.columns());
    String columns = scan.counted() ? "" : ": " + String.join(", ", scan.paths());
    return new Told(
        (scan.counted() ? "count rows of " : "scan ") + text.table() + columns,
        text.details(),
        names);
  }

  private Told aggregate(AggregateStep step, int depth) {
    Names of = tell(step.input(), depth + 1);
    Schema columns = step.input().columns();
    List<String> names = new ArrayList<>();
    step.keys().forEach(key -> names.add(of.text(key, columns)));
    List<String> calls = new ArrayList<>();
    for (Aggregate call : step.aggregates()) {
      calls.add(call(call, of, columns));
    }
    String keys = String.join(", ", names);
    names.addAll(calls);
    String computed = String.join(", ", calls);
    boolean hasSets = step.sets().size() > 1;
    String text =
        step.keys().isEmpty()
            ? "aggregate " + computed
            : (calls.isEmpty() ? "distinct " : "group by ")
                + keys
                + (hasSets ? " in " + step.sets().size() + " sets" : "")
                + (calls.isEmpty() ? "" : ": " + computed);
    return new Told(Names.shortened(text), new Names(names));
  }

  private static String call(Aggregate call, Names names, Schema columns) {
    String distinct = call.isDistinct() ? "DISTINCT " : "";
    String of = call.of().isEmpty() ? "*" : names.list(call.of(), columns);
    Optional<String> where =
        call.where().map(condition -> " filtered by " + names.text(condition, columns));
    return call.function().word() + "(" + distinct + of + ")" + where.orElse("");
  }

  private Told join(JoinStep join, int depth) {
    Names left = tell(join.left(), depth + 1);
    Names right = tell(join.right(), depth + 1);
    Names both = left.and(right);
    List<String> parts = new ArrayList<>();
    String equal = join.nullsMeet() ? " IS NOT DISTINCT FROM " : " = ";
    for (int k = 0; k < join.leftKeys().size(); k++) {
      parts.add(
          left.text(join.leftKeys().get(k), join.left().columns())
              + equal
              + right.text(join.rightKeys().get(k), join.right().columns()));
    }
    join.rest().ifPresent(rest -> parts.add(both.text(rest, join.both())));
    String on = parts.isEmpty() ? "" : " on " + String.join(" AND ", parts);
    boolean isSecond =
        join.kind() == JoinStep.Kind.RIGHT_SEMI || join.kind() == JoinStep.Kind.RIGHT_ANTI;
    Names names = join.kind().pairs() ? both : isSecond ? right : left.and(join);
    return new Told(
        Names.shortened(kind(join.kind()) + on),
        List.of("keeps the rows of its second input"),
        names);
  }

  private static String kind(JoinStep.Kind kind) {
    return switch (kind) {
      case INNER -> "inner join";
      case LEFT -> "left join";
      case RIGHT -> "right join";
      case FULL -> "full join";
      case SEMI -> "rows with a partner";
      case ANTI -> "rows without a partner";
      case RIGHT_SEMI -> "second rows with a partner";
      case RIGHT_ANTI -> "second rows without a partner";
      case MARK -> "whether rows have a partner";
    };
  }

  static String orders(List<Ordering.Order> orders, Names names) {
    List<String> parts = new ArrayList<>();
    for (Ordering.Order order : orders) {
      parts.add(names.all().get(order.column()) + (order.descending() ? " DESC" : ""));
    }
    return String.join(", ", parts);
  }
}
