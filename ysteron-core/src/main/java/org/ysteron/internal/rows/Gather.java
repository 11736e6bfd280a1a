package org.ysteron.internal.rows;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;

/** Takes some rows of a batch. */
public final class Gather {
  private Gather() {}

  /** The rows whose bits are set; the batch itself when all are. */
  public static Batch select(Batch batch, long[] selected) {
    return take(batch, new Rows(selected), false);
  }

  /**
   * The rows whose bits are set, of a batch that nobody else has: when most are, they are moved to
   * the front of its own arrays.
   */
  public static Batch keep(Batch batch, long[] selected) {
    Rows rows = new Rows(selected);
    return take(batch, rows, rows.count * 2 > batch.size());
  }

  /** The rows at some positions, in their order. */
  public static Batch rows(Batch batch, int[] positions) {
    return take(batch, new Rows(positions), false);
  }

  /** The first columns of a batch. */
  public static Batch columns(Batch batch, int count) {
    return count == batch.vectors().size()
        ? batch
        : new Batch(
            new Type.Struct(batch.columns().fields().subList(0, count)),
            batch.size(),
            batch.vectors().subList(0, count));
  }

  /** The values at some positions, in their order. */
  public static Vector values(Vector vector, int[] positions) {
    return take(vector, new Rows(positions), false);
  }

  /** The first rows of a batch. */
  public static Batch first(Batch batch, int count) {
    int[] rows = new int[count];
    for (int i = 0; i < count; i++) {
      rows[i] = i;
    }
    return rows(batch, rows);
  }

  /** The numbers of the bits that are set. */
  public static int[] positions(long[] selected) {
    return new Rows(selected).positions();
  }

  /** Runs of bits that are set: the first one and how many, again and again. */
  public static int[] runs(long[] selected) {
    return new Rows(selected).runs();
  }

  private static Batch take(Batch batch, Rows rows, boolean own) {
    if (rows.count == batch.size() && rows.selected != null) {
      return batch;
    }
    List<Vector> vectors = new ArrayList<>();
    for (Vector vector : batch.vectors()) {
      vectors.add(take(vector, rows, own));
    }
    return new Batch(batch.columns(), rows.count, vectors);
  }

  private static long[] nulls(Vector vector, int[] rows) {
    long[] nulls = null;
    for (int i = 0; i < rows.length; i++) {
      if (vector.isNull(rows[i])) {
        nulls = nulls == null ? new long[(rows.length + 63) >> 6] : nulls;
        nulls[i >> 6] |= 1L << i;
      }
    }
    return nulls;
  }

  private static Vector take(Vector vector, Rows rows, boolean own) {
    long[] nulls = vector.nulls() == null ? null : nulls(vector, rows.positions());
    Type type = vector.type();
    int count = rows.count;
    if (vector instanceof Vector.OfLong from) {
      return new Vector.OfLong(type, count, pick(from.values(), rows, own), nulls);
    }
    if (vector instanceof Vector.OfInt from) {
      return new Vector.OfInt(type, count, pick(from.values(), rows, own), nulls);
    }
    if (vector instanceof Vector.OfDouble from) {
      double[] values = own ? from.values() : new double[count];
      rows.copy(from.values(), values);
      return new Vector.OfDouble(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfFloat from) {
      float[] values = own ? from.values() : new float[count];
      rows.copy(from.values(), values);
      return new Vector.OfFloat(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfBoolean from) {
      boolean[] values = own ? from.values() : new boolean[count];
      rows.copy(from.values(), values);
      return new Vector.OfBoolean(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfBytes from) {
      int[] starts = pick(from.starts(), rows, own);
      int[] lengths = pick(from.lengths(), rows, own);
      int[] codes = from.codes() == null ? null : pick(from.codes(), rows, own);
      return new Vector.OfBytes(
          type, count, from.data(), starts, lengths, nulls, from.words(), codes);
    }
    if (vector instanceof Vector.OfStruct from) {
      List<Vector> fields = from.fields().stream().map(field -> take(field, rows, own)).toList();
      return new Vector.OfStruct(type, count, fields, nulls);
    }
    VectorBuilder builder = new VectorBuilder(type);
    for (int row : rows.positions()) {
      builder.add(vector.get(row));
    }
    return builder.build();
  }

  private static long[] pick(long[] from, Rows rows, boolean own) {
    long[] values = own ? from : new long[rows.count];
    if (rows.areScattered()) {
      int[] positions = rows.positions();
      for (int i = 0; i < positions.length; i++) {
        values[i] = from[positions[i]];
      }
    } else {
      rows.copy(from, values);
    }
    return values;
  }

  private static int[] pick(int[] from, Rows rows, boolean own) {
    int[] values = own ? from : new int[rows.count];
    if (rows.areScattered()) {
      int[] positions = rows.positions();
      for (int i = 0; i < positions.length; i++) {
        values[i] = from[positions[i]];
      }
    } else {
      rows.copy(from, values);
    }
    return values;
  }

  /** Which rows, as positions and as runs of consecutive ones; each is found when needed. */
  private static final class Rows {
    private final long[] selected;
    private final int count;
    private int[] positions;
    private int[] runs;

    Rows(long[] selected) {
      this.selected = selected;
      int bits = 0;
      for (long word : selected) {
        bits += Long.bitCount(word);
      }
      this.count = bits;
    }

    Rows(int[] positions) {
      this.selected = null;
      this.positions = positions;
      this.count = positions.length;
    }

    int[] positions() {
      if (positions == null) {
        positions = new int[count];
        int next = 0;
        for (int w = 0; w < selected.length; w++) {
          for (long word = selected[w]; word != 0; word &= word - 1) {
            positions[next++] = (w << 6) + Long.numberOfTrailingZeros(word);
          }
        }
      }
      return positions;
    }

    /** Whether consecutive rows are so few that copying runs of them does not pay. */
    boolean areScattered() {
      return runs().length * 4 > count;
    }

    /** Copies runs of elements between arrays of the same kind, one behind the other. */
    void copy(Object from, Object to) {
      int next = 0;
      int[] of = runs();
      for (int r = 0; r < of.length; r += 2) {
        System.arraycopy(from, of[r], to, next, of[r + 1]);
        next += of[r + 1];
      }
    }

    /** Consecutive rows: the first one and how many, again and again. */
    private int[] runs() {
      if (runs == null) {
        runs = selected == null ? ofPositions() : ofBits();
      }
      return runs;
    }

    private int[] ofPositions() {
      int[] found = new int[16];
      int size = 0;
      for (int i = 0; i < count; size += 2) {
        int start = i++;
        while (i < count && positions[i] == positions[i - 1] + 1) {
          i++;
        }
        found = size == found.length ? Arrays.copyOf(found, size * 2) : found;
        found[size] = positions[start];
        found[size + 1] = i - start;
      }
      return Arrays.copyOf(found, size);
    }

    private int[] ofBits() {
      int[] found = new int[2 * countRuns()];
      int size = 0;
      int end = selected.length << 6;
      int at = next(0, end, 0);
      while (at < end) {
        int after = next(at, end, -1);
        found[size++] = at;
        found[size++] = after - at;
        at = next(after, end, 0);
      }
      return found;
    }

    /** How many bits are set whose bit before is not. */
    private int countRuns() {
      int runs = 0;
      long before = 0;
      for (long word : selected) {
        runs += Long.bitCount(word & ~((word << 1) | before));
        before = word >>> 63;
      }
      return runs;
    }

    /** The next bit that is set, or with a turn of -1 the next that is not; or the end. */
    private int next(int from, int end, long turn) {
      int w = from >> 6;
      if (from >= end) {
        return end;
      }
      long word = (selected[w] ^ turn) & (-1L << from);
      while (word == 0) {
        if (++w == selected.length) {
          return end;
        }
        word = selected[w] ^ turn;
      }
      return (w << 6) + Long.numberOfTrailingZeros(word);
    }
  }
}
