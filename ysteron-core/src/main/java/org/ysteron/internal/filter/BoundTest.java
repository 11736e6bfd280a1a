package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Vector;
import org.ysteron.internal.rows.Selections;

/** The bound form of a condition, without negations. */
sealed interface BoundTest
    permits BoundTest.And, BoundTest.Or, BoundTest.OfColumn, BoundPair, BoundComputed {

  /** More single values than that are not looked up one by one. */
  int MOST_POINTS = 100_000;

  /**
   * Narrows a selection.
   *
   * @param rows the positions of the rows that are tested, ascending
   * @param count how many
   * @param to gets the positions of those that pass; may be the array of rows itself
   * @return how many pass
   */
  int select(Batch batch, int[] rows, int count, int[] to);

  /** What testing a row costs, about, against a test of a number; those that can fail are last. */
  default int cost() {
    return 1;
  }

  /** What tests cost that can fail. */
  int FAILING = 1 << 20;

  /** All of some tests. */
  static BoundTest all(List<BoundTest> parts) {
    return parts.size() == 1 ? parts.get(0) : new And(parts);
  }

  /** Any of some tests. */
  static BoundTest any(List<BoundTest> parts) {
    return parts.size() == 1 ? parts.get(0) : new Or(parts);
  }

  /** Tests in the order in which they narrow: cheap ones first, those that can fail last. */
  static List<BoundTest> ordered(List<BoundTest> parts) {
    List<BoundTest> ordered = new ArrayList<>(parts);
    ordered.sort(Comparator.comparingInt(BoundTest::cost));
    return ordered;
  }

  Verdict test(Ranges ranges);

  void collect(Map<Integer, Field> columns);

  /** Whether no row passes, whatever is in it; false in doubt. */
  default boolean isNeverTrue() {
    return false;
  }

  /** Whether this test, or a part of it, wants single values. */
  default boolean asksForValues() {
    return false;
  }

  /** Whether a row may pass, by the single values it would have. */
  default boolean mayHold(HeldValues points) {
    return true;
  }

  /** All of them. */
  record And(List<BoundTest> parts) implements BoundTest {
    @Override
    public int select(Batch batch, int[] rows, int count, int[] to) {
      if (parts.isEmpty() && to != rows) {
        System.arraycopy(rows, 0, to, 0, count);
      }
      int left = count;
      int[] tested = rows;
      for (BoundTest part : parts) {
        left = part.select(batch, tested, left, to);
        tested = to;
      }
      return left;
    }

    @Override
    public int cost() {
      return sum(parts);
    }

    @Override
    public boolean isNeverTrue() {
      return parts.stream().anyMatch(BoundTest::isNeverTrue);
    }

    @Override
    public Verdict test(Ranges ranges) {
      Verdict verdict = Verdict.ALL;
      for (BoundTest part : parts) {
        verdict = verdict.and(part.test(ranges));
        if (verdict == Verdict.NONE) {
          break;
        }
      }
      return verdict;
    }

    @Override
    public void collect(Map<Integer, Field> columns) {
      parts.forEach(part -> part.collect(columns));
    }

    @Override
    public boolean asksForValues() {
      return parts.stream().anyMatch(BoundTest::asksForValues);
    }

    @Override
    public boolean mayHold(HeldValues points) {
      return parts.stream().allMatch(part -> part.mayHold(points));
    }
  }

  /** One of them at least. */
  record Or(List<BoundTest> parts) implements BoundTest {
    @Override
    public int select(Batch batch, int[] rows, int count, int[] to) {
      int[] left = Arrays.copyOf(rows, count);
      int[] passed = new int[count];
      long[] marks = new long[(batch.size() + 63) >> 6];
      int rest = count;
      for (BoundTest part : parts) {
        int passing = part.select(batch, left, rest, passed);
        Selections.mark(passed, passing, marks);
        rest = Selections.keep(left, rest, marks, false, left);
      }
      return Selections.keep(rows, count, marks, true, to);
    }

    @Override
    public int cost() {
      return sum(parts);
    }

    @Override
    public boolean isNeverTrue() {
      return parts.stream().allMatch(BoundTest::isNeverTrue);
    }

    @Override
    public Verdict test(Ranges ranges) {
      Verdict verdict = Verdict.NONE;
      for (BoundTest part : parts) {
        verdict = verdict.or(part.test(ranges));
      }
      return verdict;
    }

    @Override
    public void collect(Map<Integer, Field> columns) {
      parts.forEach(part -> part.collect(columns));
    }

    @Override
    public boolean asksForValues() {
      return !parts.isEmpty() && parts.stream().allMatch(BoundTest::asksForValues);
    }

    @Override
    public boolean mayHold(HeldValues points) {
      return parts.stream().anyMatch(part -> part.mayHold(points));
    }
  }

  private static int sum(List<BoundTest> parts) {
    long sum = 1;
    for (BoundTest part : parts) {
      sum += part.cost();
    }
    return (int) Math.min(sum, 2L * FAILING);
  }

  /** A test of one column. */
  abstract sealed class OfColumn implements BoundTest, ColumnTest
      permits OfNull, NumberIntervals, ByteIntervals {
    private final List<Field> along;

    OfColumn(List<Field> along) {
      this.along = along;
    }

    /** How many intervals of values pass; none for a test of null. */
    int intervals() {
      return 0;
    }

    /** The parts in which the values of an interval are. */
    Optional<Grouping.Span> parts(int interval, Grouping grouping) {
      return Optional.empty();
    }

    final List<Field> along() {
      return along;
    }

    @Override
    public final Field field() {
      return along.get(along.size() - 1);
    }

    @Override
    public final void collect(Map<Integer, Field> columns) {
      columns.put(field().id(), field());
    }

    @Override
    public final Verdict test(Ranges ranges) {
      if (isNeverTrue()) {
        return Verdict.NONE;
      }
      ColumnRange range = ranges.range(field().id());
      return range.state() == ColumnRange.State.UNKNOWN ? Verdict.SOME : testKnown(range);
    }

    abstract Verdict testKnown(ColumnRange range);

    @Override
    public final int select(Batch batch, int[] rows, int count, int[] to) {
      return select(Paths.vector(batch, along), rows, count, to);
    }

    @Override
    public boolean passesNull() {
      return false;
    }

    @Override
    public boolean passes(long value) {
      throw new IllegalStateException("the column is held as bytes");
    }

    @Override
    public boolean passes(byte[] data, int start, int end) {
      throw new IllegalStateException("the column is held as numbers");
    }

    /** Whether the column is one of the table, not a field in one. */
    final boolean isOfTop() {
      return along.size() == 1;
    }

    /** Keeps the rows whose value is null, or those whose value is not. */
    static int ofNull(Vector vector, boolean wanted, int[] rows, int count, int[] to) {
      return Selections.keep(rows, count, vector.nulls(), wanted, to);
    }
  }

  /** Null, or not null. */
  final class OfNull extends OfColumn {
    private final boolean wanted;

    OfNull(List<Field> along, boolean wanted) {
      super(along);
      this.wanted = wanted;
    }

    /** Whether null passes, or what is not. */
    boolean wanted() {
      return wanted;
    }

    @Override
    Verdict testKnown(ColumnRange range) {
      if (range.state() == ColumnRange.State.ALL_NULL) {
        return wanted ? Verdict.ALL : Verdict.NONE;
      }
      if (range.nulls() == 0) {
        return wanted ? Verdict.NONE : Verdict.ALL;
      }
      return Verdict.SOME;
    }

    @Override
    public int select(Vector vector, int[] rows, int count, int[] to) {
      return ofNull(vector, wanted, rows, count, to);
    }

    @Override
    public boolean passesNull() {
      return wanted;
    }

    @Override
    public boolean passes(long value) {
      return !wanted;
    }

    @Override
    public boolean passes(byte[] data, int start, int end) {
      return !wanted;
    }
  }
}
