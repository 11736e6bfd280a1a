package org.ysteron.option;

import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.ysteron.data.Values;

/**
 * A layout by column names, independent of a schema. Immutable.
 *
 * <pre>{@code
 * LayoutPlan.none().rule("range taken_at every 1 month").rule("hash gauge_id into 8").sortedBy("taken_at")
 * }</pre>
 */
public final class LayoutPlan {
  private static final Pattern PATH = Pattern.compile("(?:\"(?:[^\"]|\"\")*+\"|[^\\s\"])++");

  private final List<String> rules;
  private final List<String> sort;
  private final List<String> curve;

  private LayoutPlan(List<String> rules, List<String> sort, List<String> curve) {
    this.rules = List.copyOf(rules);
    this.sort = List.copyOf(sort);
    this.curve = List.copyOf(curve);
  }

  /** No layout: all rows together, in the order in which they are written. */
  public static LayoutPlan none() {
    return new LayoutPlan(List.of(), List.of(), List.of());
  }

  /**
   * This plan with one more partition rule, such as
   *
   * <ul>
   *   <li>{@code range taken_at every 6 hours} (years, months, days, hours, minutes, in UTC)
   *   <li>{@code range level_cm every 100}, for numbers
   *   <li>{@code range name at 'F', 'M'}: each bound starts a range
   *   <li>{@code list harbour}: one part per value
   *   <li>{@code list harbour of ('Orrin', 'Vell'), ('Sund')}: one part per group, and one for all
   *       other values
   *   <li>{@code hash gauge_id into 16}
   * </ul>
   *
   * The column may be a field inside structs: {@code range health.seen every 1 day}.
   */
  public LayoutPlan rule(String text) {
    List<String> more = new ArrayList<>(rules);
    more.add(text);
    return new LayoutPlan(more, sort, curve);
  }

  /** Ranges of equal time steps in UTC, such as {@code range taken_at every 6 hours}. */
  public LayoutPlan everyTime(String column, int step, ChronoUnit unit) {
    return rule("range %s every %d %s".formatted(column, step, unit.toString()));
  }

  /** Ranges of equal numeric steps, such as {@code range level_cm every 100}. */
  public LayoutPlan every(String column, int step) {
    return rule("range %s every %d".formatted(column, step));
  }

  /** Ranges that start at bounds, such as {@code range name at 'F', 'M'}. */
  public LayoutPlan rangesAt(String column, Object... bounds) {
    return rule("range %s at %s".formatted(column, joined(List.of(bounds))));
  }

  /** One part per value, such as {@code list harbour}. */
  public LayoutPlan eachValue(String column) {
    return rule("list " + column);
  }

  /**
   * One part per group of values, and one for all others, such as {@code list harbour of ('Orrin'),
   * ('Sund')}.
   */
  public LayoutPlan groups(String column, List<? extends List<?>> groups) {
    return rule(
        "list %s of %s"
            .formatted(
                column,
                String.join(
                    ", ", groups.stream().map(group -> "(" + joined(group) + ")").toList())));
  }

  /** A number of parts by a hash of the value, such as {@code hash gauge_id into 16}. */
  public LayoutPlan hash(String column, int parts) {
    return rule("hash %s into %d".formatted(column, parts));
  }

  private static String joined(List<?> values) {
    return String.join(", ", values.stream().map(LayoutPlan::shown).toList());
  }

  private static String shown(Object value) {
    return value instanceof Number
        ? value.toString()
        : Values.literal(value instanceof byte[] ? value : value.toString());
  }

  /** This plan with sort columns; {@code "taken_at descending"} for descending order. */
  public LayoutPlan sortedBy(String... columns) {
    return new LayoutPlan(rules, Arrays.asList(columns), curve);
  }

  /**
   * This plan with rows along a space-filling curve over two to four columns, so that rows with
   * similar values in all of them are in few files. The curve uses quantiles of the column's
   * values, which are measured when the layout is set, or given as in {@code "level_cm at 1, 5,
   * 20"}.
   */
  public LayoutPlan along(String... columns) {
    return new LayoutPlan(rules, sort, Arrays.asList(columns));
  }

  /** The columns of the curve, each as {@link #along} takes it; empty for none. */
  public List<String> curve() {
    return curve;
  }

  /** The partition rules, each as {@link #rule} takes it. */
  public List<String> rules() {
    return rules;
  }

  /** The sort columns in order, each as {@link #sortedBy} takes it. */
  public List<String> sort() {
    return sort;
  }

  private static String withoutQuantiles(String column) {
    Matcher path = PATH.matcher(column.strip());
    return path.lookingAt() ? path.group() : column;
  }

  /** The rules, then the sort columns, for people. */
  @Override
  public String toString() {
    List<String> parts = new ArrayList<>(rules);
    if (!sort.isEmpty()) {
      parts.add("sorted by " + String.join(", ", sort));
    }
    if (!curve.isEmpty()) {
      parts.add(
          "along a curve over "
              + String.join(", ", curve.stream().map(LayoutPlan::withoutQuantiles).toList()));
    }
    return parts.isEmpty() ? "no partitions" : String.join("; ", parts);
  }
}
