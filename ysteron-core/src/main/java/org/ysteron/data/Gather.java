package org.ysteron.data;

import java.util.ArrayList;
import java.util.List;

/** Takes some rows of a batch. */
public final class Gather {
  private Gather() {}

  /** The rows whose bits are set; the batch itself when all are. */
  public static Batch select(Batch batch, long[] selected) {
    int[] rows = positions(selected);
    return rows.length == batch.size() ? batch : rows(batch, rows);
  }

  /** The numbers of the bits that are set. */
  public static int[] positions(long[] selected) {
    int count = 0;
    for (long word : selected) {
      count += Long.bitCount(word);
    }
    int[] rows = new int[count];
    int next = 0;
    for (int w = 0; w < selected.length; w++) {
      for (long word = selected[w]; word != 0; word &= word - 1) {
        rows[next++] = (w << 6) + Long.numberOfTrailingZeros(word);
      }
    }
    return rows;
  }

  /** The first rows of a batch. */
  public static Batch first(Batch batch, int count) {
    int[] rows = new int[count];
    for (int i = 0; i < count; i++) {
      rows[i] = i;
    }
    return rows(batch, rows);
  }

  /** The rows at some positions, in their order. */
  public static Batch rows(Batch batch, int[] rows) {
    List<Vector> vectors = new ArrayList<>();
    for (Vector vector : batch.vectors()) {
      vectors.add(rows(vector, rows));
    }
    return new Batch(batch.columns(), rows.length, vectors);
  }

  private static long[] nulls(Vector vector, int[] rows) {
    if (vector.nulls() == null) {
      return null;
    }
    long[] nulls = null;
    for (int i = 0; i < rows.length; i++) {
      if (vector.isNull(rows[i])) {
        nulls = nulls == null ? new long[(rows.length + 63) >> 6] : nulls;
        nulls[i >> 6] |= 1L << i;
      }
    }
    return nulls;
  }

  private static Vector rows(Vector vector, int[] rows) {
    long[] nulls = nulls(vector, rows);
    Type type = vector.type();
    int count = rows.length;
    if (vector instanceof Vector.OfLong from) {
      long[] values = new long[count];
      for (int i = 0; i < count; i++) {
        values[i] = from.values()[rows[i]];
      }
      return new Vector.OfLong(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfInt from) {
      return new Vector.OfInt(type, count, pick(from.values(), rows), nulls);
    }
    if (vector instanceof Vector.OfDouble from) {
      double[] values = new double[count];
      for (int i = 0; i < count; i++) {
        values[i] = from.values()[rows[i]];
      }
      return new Vector.OfDouble(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfFloat from) {
      float[] values = new float[count];
      for (int i = 0; i < count; i++) {
        values[i] = from.values()[rows[i]];
      }
      return new Vector.OfFloat(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfBoolean from) {
      boolean[] values = new boolean[count];
      for (int i = 0; i < count; i++) {
        values[i] = from.values()[rows[i]];
      }
      return new Vector.OfBoolean(type, count, values, nulls);
    }
    if (vector instanceof Vector.OfBytes from) {
      return new Vector.OfBytes(
          type, count, from.data(), pick(from.starts(), rows), pick(from.lengths(), rows), nulls);
    }
    if (vector instanceof Vector.OfStruct from) {
      List<Vector> fields = from.fields().stream().map(field -> rows(field, rows)).toList();
      return new Vector.OfStruct(type, count, fields, nulls);
    }
    VectorBuilder builder = new VectorBuilder(type);
    for (int row : rows) {
      builder.add(vector.get(row));
    }
    return builder.build();
  }

  private static int[] pick(int[] from, int[] rows) {
    int[] values = new int[rows.length];
    for (int i = 0; i < rows.length; i++) {
      values[i] = from[rows[i]];
    }
    return values;
  }
}
