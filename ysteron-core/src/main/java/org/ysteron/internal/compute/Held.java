package org.ysteron.internal.compute;

import java.util.Arrays;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.typing.Numbers;

/**
 * The values of a kernel for the rows of a batch, in arrays that serve again for the next batch.
 * Exact numbers (unscaled), booleans (1 and 0), dates, times and intervals are {@code longs}, with
 * {@code highs} when some number needs 128 bits; approximate numbers are {@code doubles}; text and
 * other bytes are {@code data}; what is nested is a {@code vector}. Values of rows that are null or
 * not selected mean nothing. For one thread.
 */
public final class Held {
  /** How values of a type are held. */
  public enum Form {
    LONGS,
    DOUBLES,
    BYTES,
    NESTED
  }

  int size;
  long[] longs;
  long[] highs;
  double[] doubles;
  byte[] data;
  int[] starts;
  int[] lengths;
  Vector vector;
  long[] nulls;

  /** The words of the dictionary that all values come from; null when there is none. */
  Vector.Words words;

  /** The numbers of the values among the words. */
  int[] codes;

  private long[] ownLongs = {};
  private long[] ownHighs = {};
  private double[] ownDoubles = {};
  private byte[] ownData = {};
  private int[] ownStarts = {};
  private int[] ownLengths = {};
  private long[] ownNulls = {};
  private int used;

  /** How values of a type are held. */
  public static Form form(Type type) {
    if (type.isNested()) {
      return Form.NESTED;
    }
    if (type == Types.REAL || type == Types.DOUBLE) {
      return Form.DOUBLES;
    }
    return type.physical() == Type.Physical.BYTES && !(type instanceof Type.Decimal)
        ? Form.BYTES
        : Form.LONGS;
  }

  /** Whether the value of a row is null. */
  public boolean isNull(int row) {
    return nulls != null && (nulls[row >> 6] & (1L << row)) != 0;
  }

  /** How many rows there are. */
  public int size() {
    return size;
  }

  /** Exact numbers, booleans, dates, times and intervals; the low 64 bits of them. */
  public long[] longs() {
    return longs;
  }

  /** The high 64 bits of exact numbers; null when none needs them. */
  public long[] highs() {
    return highs;
  }

  /** Approximate numbers. */
  public double[] doubles() {
    return doubles;
  }

  /** The bytes that values are parts of. */
  public byte[] data() {
    return data;
  }

  /** Where in the bytes a row's value begins. */
  public int[] starts() {
    return starts;
  }

  /** How many bytes a row's value has. */
  public int[] lengths() {
    return lengths;
  }

  /** Nested values. */
  public Vector nested() {
    return vector;
  }

  /** The bits of the rows that are null; null when there are none. */
  public long[] nulls() {
    return nulls;
  }

  /** The words of the dictionary that all values come from; null when there is none. */
  public Vector.Words words() {
    return words;
  }

  /** The numbers of the values among the words. */
  public int[] codes() {
    return codes;
  }

  /** Begins with values for so many rows, none of them null. */
  Held begin(int rows, Form form) {
    size = rows;
    nulls = null;
    highs = null;
    words = null;
    switch (form) {
      case LONGS -> {
        if (ownLongs.length < rows) {
          ownLongs = new long[rows];
        }
        longs = ownLongs;
      }
      case DOUBLES -> {
        if (ownDoubles.length < rows) {
          ownDoubles = new double[rows];
        }
        doubles = ownDoubles;
      }
      case BYTES -> {
        if (ownStarts.length < rows) {
          ownStarts = new int[rows];
          ownLengths = new int[rows];
        }
        starts = ownStarts;
        lengths = ownLengths;
        data = ownData;
        used = 0;
      }
      case NESTED -> vector = null;
    }
    return this;
  }

  /** Begins with values for some rows, null where one of the values is that they come from. */
  Held begin(Rows rows, Form form, Held... inputs) {
    begin(rows.size(), form);
    for (Held input : inputs) {
      nullsOf(input);
    }
    return this;
  }

  /** Makes room for numbers of 128 bits, with those that are there. */
  void widen() {
    if (ownHighs.length < size) {
      ownHighs = new long[size];
    }
    for (int i = 0; i < size; i++) {
      ownHighs[i] = longs[i] >> 63;
    }
    highs = ownHighs;
  }

  /** Sets an exact number; the first that needs 128 bits makes room for such. */
  void set(int row, Wide value) {
    if (highs == null && !value.isShort()) {
      widen();
    }
    longs[row] = value.low;
    if (highs != null) {
      highs[row] = value.high;
    }
  }

  /** Has a number take the value of a row. */
  Wide to(Wide number, int row) {
    long low = longs[row];
    return number.set(highs == null ? low >> 63 : highs[row], low);
  }

  void setNull(int row) {
    if (nulls == null || nulls != ownNulls) {
      own();
    }
    nulls[row >> 6] |= 1L << row;
  }

  /** Has bits for nulls of its own, with those that were there. */
  private void own() {
    int words = (size + 63) >> 6;
    long[] before = nulls;
    if (ownNulls.length < words) {
      ownNulls = new long[words];
    }
    Arrays.fill(ownNulls, 0, words, 0);
    if (before != null) {
      System.arraycopy(before, 0, ownNulls, 0, words);
    }
    nulls = ownNulls;
  }

  /** Null where another is. */
  void nullsOf(Held other) {
    if (other.nulls == null) {
      return;
    }
    if (nulls == null) {
      nulls = other.nulls;
      return;
    }
    if (nulls != ownNulls) {
      own();
    }
    for (int w = 0; w < (size + 63) >> 6; w++) {
      nulls[w] |= other.nulls[w];
    }
  }

  /** Sets all rows to null. */
  void allNull() {
    own();
    Arrays.fill(nulls, 0, (size + 63) >> 6, -1L);
  }

  /** Room for so many bytes more; what is written there starts at the returned place. */
  int room(int bytes) {
    int needed = Math.addExact(used, bytes);
    if (needed > ownData.length) {
      ownData =
          Arrays.copyOf(
              ownData,
              Math.max(needed, (int) Math.min(Integer.MAX_VALUE - 8L, ownData.length * 2L + 64)));
      data = ownData;
    }
    return used;
  }

  /** Ends a value that was written at {@link #room}. */
  void end(int row, int length) {
    starts[row] = used;
    lengths[row] = length;
    used += length;
  }

  /** Sets a value to a copy of some bytes. */
  void copy(int row, byte[] from, int start, int length) {
    int at = room(length);
    System.arraycopy(from, start, data, at, length);
    end(row, length);
  }

  /** The same bytes as another, of which each value is a part. */
  void share(Held other) {
    data = other.data;
  }

  /** Takes the values of a vector without copying what can be shared. */
  Held of(Vector from, Wide scratch) {
    size = from.size();
    nulls = from.nulls();
    highs = null;
    if (from instanceof Vector.OfLong of) {
      longs = of.values();
    } else if (from instanceof Vector.OfInt of) {
      long[] to = begin(size, Form.LONGS).longs;
      int[] values = of.values();
      for (int i = 0; i < size; i++) {
        to[i] = values[i];
      }
      nulls = from.nulls();
    } else if (from instanceof Vector.OfBoolean of) {
      long[] to = begin(size, Form.LONGS).longs;
      for (int i = 0; i < size; i++) {
        to[i] = of.values()[i] ? 1 : 0;
      }
      nulls = from.nulls();
    } else if (from instanceof Vector.OfDouble of) {
      doubles = of.values();
    } else if (from instanceof Vector.OfFloat of) {
      double[] to = begin(size, Form.DOUBLES).doubles;
      for (int i = 0; i < size; i++) {
        to[i] = of.values()[i];
      }
      nulls = from.nulls();
    } else if (from instanceof Vector.OfBytes of) {
      if (of.type() instanceof Type.Decimal) {
        decimals(of, scratch);
      } else {
        data = of.data();
        starts = of.starts();
        lengths = of.lengths();
        words = of.words();
        codes = of.codes();
      }
    } else {
      vector = from;
    }
    return this;
  }

  private void decimals(Vector.OfBytes of, Wide scratch) {
    begin(size, Form.LONGS);
    nulls = of.nulls();
    for (int i = 0; i < size; i++) {
      if (!isNull(i)) {
        int at = of.starts()[i];
        scratch.set(word(of.data(), at) ^ Long.MIN_VALUE, word(of.data(), at + Long.BYTES));
        set(i, scratch);
      }
    }
  }

  private static long word(byte[] data, int at) {
    long word = 0;
    for (int i = at; i < at + Long.BYTES; i++) {
      word = word << 8 | (data[i] & 0xff);
    }
    return word;
  }

  /** The values as a vector of a type that shares nothing with this. */
  public Vector vector(Type type) {
    return form(type) == Form.NESTED ? vector : Vectors.of(this, type);
  }

  /** A value for people; the type says how it is held. */
  String show(int row, Type type) {
    return isNull(row) ? "NULL" : Values.show(value(row, type).orElse("a value"));
  }

  /** A value of a row, which is not null. */
  public Optional<Object> value(int row, Type type) {
    return switch (form(type)) {
      case NESTED -> Optional.of(vector.present(row));
      case DOUBLES ->
          Optional.of(type == Types.REAL ? (Object) (float) doubles[row] : (Object) doubles[row]);
      case BYTES -> Optional.of(Values.fromBytes(data, starts[row], lengths[row], type));
      case LONGS -> {
        if (Numbers.isExact(type)) {
          Wide number = to(new Wide(), row);
          java.math.BigDecimal exact = new java.math.BigDecimal(number.big(), Numbers.scale(type));
          yield Optional.of(
              type == Types.INTEGER
                  ? (Object) exact.intValue()
                  : type == Types.BIGINT ? (Object) exact.longValue() : exact);
        }
        yield Optional.of(Values.fromLong(longs[row], type));
      }
    };
  }
}
