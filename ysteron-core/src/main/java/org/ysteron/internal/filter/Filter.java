package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
import org.ysteron.internal.rows.Selections;

/**
 * A condition bound to a schema: columns are found by id, literals are in the columns' own domain,
 * and negations are pushed down to the comparisons, so that the rows for which it is not true never
 * need to be told apart into false and unknown. Immutable, safe for many threads.
 */
public final class Filter {
  private final Condition condition;
  private final BoundTest root;
  private final BoundTest parts;
  private final List<ColumnTest> ofColumns = new ArrayList<>();
  private final BoundTest rest;
  private final Map<Integer, Field> restColumns = new TreeMap<>();
  private final Map<Integer, Field> columns = new TreeMap<>();
  private final Set<Integer> inStructs = new HashSet<>();

  private Filter(Condition condition, BoundTest root, Schema schema, List<Grouping> groupings) {
    this.condition = condition;
    this.root = root;
    this.parts = new PartTests(groupings).of(root);
    root.collect(columns);
    List<BoundTest> others = new ArrayList<>();
    for (BoundTest part : root instanceof BoundTest.And and ? and.parts() : List.of(root)) {
      if (part instanceof BoundTest.OfColumn test && test.isOfTop()) {
        ofColumns.add(test);
      } else {
        others.add(part);
      }
    }
    rest = BoundTest.all(others);
    rest.collect(restColumns);
    inStructs.addAll(columns.keySet());
    schema.columns().forEach(column -> inStructs.remove(column.id()));
  }

  /**
   * Binds a condition.
   *
   * @throws org.ysteron.error.NotFoundException when a column does not exist
   * @throws org.ysteron.error.InvalidInputException when a literal does not fit its column
   */
  public static Filter bind(Condition condition, Schema schema) {
    return bind(condition, schema, List.of());
  }

  /** Binds a condition on rows that are grouped into parts. */
  public static Filter bind(Condition condition, Schema schema, List<Grouping> groupings) {
    return new Filter(condition, new Binder(schema).bind(condition, false), schema, groupings);
  }

  /** The condition that was bound. */
  public Condition condition() {
    return condition;
  }

  /** The fields that are tested, by id. */
  public Map<Integer, Field> columns() {
    return columns;
  }

  /** Whether a column, or a field in it, is tested. */
  public boolean tests(Field field) {
    return columns.containsKey(field.id())
        || (field.type() instanceof Type.Struct struct
            && struct.fields().stream().anyMatch(this::tests));
  }

  /** Whether every row passes, whatever is in it. */
  public boolean isTrivial() {
    return root instanceof BoundTest.And and && and.parts().isEmpty();
  }

  /** Whether no row can pass, whatever is in it. */
  public boolean isNeverTrue() {
    return root.isNeverTrue();
  }

  /** What the ranges of some rows say of them. */
  public Verdict test(Ranges ranges) {
    return root.test(
        id -> {
          ColumnRange range = ranges.range(id);
          Field field = columns.get(id);
          ColumnRange told = range.withDefault(field.type(), field.addedDefault().orElse(null));
          // A default counts where the struct is there; where it is null, so is the field.
          return range.someAbsent() && inStructs.contains(id) ? told.orSomeNulls() : told;
        });
  }

  /** What the ranges of files say of their rows, those of the parts they are in included. */
  public Verdict testFiles(Ranges ranges) {
    Verdict verdict = test(ranges);
    return verdict == Verdict.SOME && excludesParts(ranges) ? Verdict.NONE : verdict;
  }

  /** Whether the parts that files are in rule out every row by themselves. */
  public boolean excludesParts(Ranges ranges) {
    return !PartTests.isAny(parts) && parts.test(ranges) == Verdict.NONE;
  }

  /** Whether the filter wants single values of columns, so that asking {@link #mayHold} helps. */
  public boolean asksForValues() {
    return root.asksForValues();
  }

  /** Whether any row may pass, by the single values that the filter wants. */
  public boolean mayHold(HeldValues points) {
    return root.mayHold(points);
  }

  /** The columns whose ranges rule out every row by themselves. */
  public List<String> excludedBy(Ranges ranges) {
    List<String> names = new ArrayList<>();
    for (Map.Entry<Integer, Field> column : columns.entrySet()) {
      Verdict alone = test(id -> id == column.getKey() ? ranges.range(id) : ColumnRange.UNKNOWN);
      if (alone == Verdict.NONE) {
        names.add(column.getValue().name());
      }
    }
    return names;
  }

  /**
   * The rows of a batch for which the condition is true.
   *
   * @return bit {@code i & 63} of word {@code i >> 6} for row {@code i}; bits behind the last row
   *     are zero
   */
  public long[] select(Batch batch) {
    int[] rows = new int[batch.size()];
    Arrays.setAll(rows, i -> i);
    int count = select(batch, rows, rows.length, rows);
    long[] selected = new long[(batch.size() + 63) >> 6];
    Selections.mark(rows, count, selected);
    return selected;
  }

  /**
   * Narrows a selection of rows of a batch to those for which the condition is true.
   *
   * @param rows the positions of the rows that are tested, ascending
   * @param count how many
   * @param to gets the positions of those that pass; may be the array of rows itself
   * @return how many pass
   */
  public int select(Batch batch, int[] rows, int count, int[] to) {
    return root.select(batch, rows, count, to);
  }

  /**
   * The tests of single columns, all of which a row must pass, in the order in which they are best
   * asked; {@link #rest} has the others.
   */
  public List<ColumnTest> ofColumns() {
    return ofColumns;
  }

  /** Whether {@link #rest} looks at a column, or a field in it. */
  public boolean restTests(Field field) {
    return restColumns.containsKey(field.id())
        || (field.type() instanceof Type.Struct struct
            && struct.fields().stream().anyMatch(this::restTests));
  }

  /** Narrows a selection by all tests but those of single columns. */
  public int rest(Batch batch, int[] rows, int count, int[] to) {
    return rest.select(batch, rows, count, to);
  }

  @Override
  public String toString() {
    return condition.toString();
  }
}
