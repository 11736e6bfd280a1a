package org.ysteron.internal.filter;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/** The bound form of a condition, without negations. */
sealed interface BoundTest permits BoundTest.And, BoundTest.Or, BoundTest.OfColumn, BoundPair {

  /** More single values than that are not looked up one by one. */
  int MOST_POINTS = 100_000;

  /** Sets the bits of the rows that pass; the bits are zero before. */
  void select(Batch batch, long[] selected);

  Verdict test(Ranges ranges);

  void collect(Map<Integer, Field> columns);

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
    public void select(Batch batch, long[] selected) {
      if (parts.isEmpty()) {
        fill(selected, batch.size());
        return;
      }
      parts.get(0).select(batch, selected);
      long[] next = new long[selected.length];
      for (BoundTest part : parts.subList(1, parts.size())) {
        Arrays.fill(next, 0);
        part.select(batch, next);
        for (int w = 0; w < next.length; w++) {
          selected[w] &= next[w];
        }
      }
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
    public void select(Batch batch, long[] selected) {
      long[] next = new long[selected.length];
      for (BoundTest part : parts) {
        Arrays.fill(next, 0);
        part.select(batch, next);
        for (int w = 0; w < next.length; w++) {
          selected[w] |= next[w];
        }
      }
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

  private static void fill(long[] selected, int size) {
    Arrays.fill(selected, -1L);
    if ((size & 63) != 0) {
      selected[selected.length - 1] = (1L << (size & 63)) - 1;
    }
  }

  /** A test of one column. */
  abstract sealed class OfColumn implements BoundTest
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

    final Field field() {
      return along.get(along.size() - 1);
    }

    @Override
    public final void collect(Map<Integer, Field> columns) {
      columns.put(field().id(), field());
    }

    @Override
    public final Verdict test(Ranges ranges) {
      ColumnRange range = ranges.range(field().id());
      return range.state() == ColumnRange.State.UNKNOWN ? Verdict.SOME : testKnown(range);
    }

    abstract Verdict testKnown(ColumnRange range);

    @Override
    public final void select(Batch batch, long[] selected) {
      selectFrom(vector(batch, along), selected);
    }

    abstract void selectFrom(Vector vector, long[] selected);

    /** Takes nulls out again. */
    static void dropNulls(Vector vector, long[] selected) {
      long[] nulls = vector.nulls();
      if (nulls != null) {
        for (int w = 0; w < selected.length; w++) {
          selected[w] &= ~nulls[w];
        }
      }
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
    void selectFrom(Vector vector, long[] selected) {
      if (wanted) {
        long[] nulls = vector.nulls();
        if (nulls != null) {
          System.arraycopy(nulls, 0, selected, 0, selected.length);
        }
      } else {
        fill(selected, vector.size());
        dropNulls(vector, selected);
      }
    }
  }

  /** The vector of the field at the end of a path. */
  static Vector vector(Batch batch, List<Field> along) {
    Type.Struct level = batch.columns();
    List<Vector> vectors = batch.vectors();
    Vector vector = null;
    for (Field step : along) {
      vector = vectors.get(position(level, step.id()));
      if (vector instanceof Vector.OfStruct struct) {
        level = (Type.Struct) struct.type();
        vectors = struct.fields();
      }
    }
    return vector;
  }

  private static int position(Type.Struct level, int id) {
    for (int i = 0; i < level.fields().size(); i++) {
      if (level.fields().get(i).id() == id) {
        return i;
      }
    }
    throw new IllegalArgumentException("the batch lacks the tested column " + id);
  }

  /** The names along a path, for messages. */
  static String path(List<Field> along) {
    return Schema.path(along.stream().map(Field::name).toList());
  }
}
