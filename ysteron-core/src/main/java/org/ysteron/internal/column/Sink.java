package org.ysteron.internal.column;

import java.util.Arrays;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/** Where values go. */
abstract class Sink {
  /** Takes values one behind the other. */
  abstract void take(ValueDecoder values, int start, int count);

  /** Takes the values of rows, none of which is null. */
  void takeRows(ValueDecoder values, int start, int count) {
    take(values, start, count);
  }

  /** Moves one value. */
  abstract void move(int from, int to);

  /** Moves the values just taken to the places of those that are not null, from the last on. */
  final void spread(int start, int count, int present, int[] definitions, int maxDefinition) {
    int from = start + present - 1;
    for (int i = count - 1; i >= 0 && from < start + i; i--) {
      if (definitions[i] == maxDefinition) {
        move(from--, start + i);
      }
    }
  }

  /** Begins anew, with the same arrays. */
  void again() {}

  /** Sets values by their numbers in a dictionary. */
  abstract void put(ValueDecoder.Words words, int[] codes, int count);

  /** The values as a vector, whose arrays are those of this. */
  abstract Vector vector(Type type, int count, long[] nulls);

  /** A sink for the values of a type. */
  static Sink of(Type type, int count) {
    return switch (type.physical()) {
      case BOOLEAN -> new Booleans(new boolean[count]);
      case INT -> new Ints(new int[count]);
      case LONG -> new Longs(new long[count]);
      case FLOAT -> new Floats(new float[count]);
      case DOUBLE -> new Doubles(new double[count]);
      case BYTES -> new ByteSink(count);
      case NESTED -> throw new IllegalArgumentException(type + " is no leaf");
    };
  }

  static final class Booleans extends Sink {
    final boolean[] target;

    Booleans(boolean[] target) {
      this.target = target;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      values.booleans(target, start, count);
    }

    @Override
    void move(int from, int to) {
      target[to] = target[from];
    }

    @Override
    void put(ValueDecoder.Words words, int[] codes, int count) {
      throw new IllegalStateException("booleans have no dictionary");
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      return new Vector.OfBoolean(type, count, target, nulls);
    }
  }

  static final class Ints extends Sink {
    final int[] target;

    Ints(int[] target) {
      this.target = target;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      values.ints(target, start, count);
    }

    @Override
    void move(int from, int to) {
      target[to] = target[from];
    }

    @Override
    void put(ValueDecoder.Words words, int[] codes, int count) {
      for (int i = 0; i < count; i++) {
        target[i] = words.ints[codes[i]];
      }
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      return new Vector.OfInt(type, count, target, nulls);
    }
  }

  static final class Longs extends Sink {
    final long[] target;

    Longs(long[] target) {
      this.target = target;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      values.longs(target, start, count);
    }

    @Override
    void move(int from, int to) {
      target[to] = target[from];
    }

    @Override
    void put(ValueDecoder.Words words, int[] codes, int count) {
      for (int i = 0; i < count; i++) {
        target[i] = words.longs[codes[i]];
      }
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      return new Vector.OfLong(type, count, target, nulls);
    }
  }

  static final class Floats extends Sink {
    final float[] target;

    Floats(float[] target) {
      this.target = target;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      values.floats(target, start, count);
    }

    @Override
    void move(int from, int to) {
      target[to] = target[from];
    }

    @Override
    void put(ValueDecoder.Words words, int[] codes, int count) {
      for (int i = 0; i < count; i++) {
        target[i] = words.floats[codes[i]];
      }
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      return new Vector.OfFloat(type, count, target, nulls);
    }
  }

  static final class Doubles extends Sink {
    final double[] target;

    Doubles(double[] target) {
      this.target = target;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      values.doubles(target, start, count);
    }

    @Override
    void move(int from, int to) {
      target[to] = target[from];
    }

    @Override
    void put(ValueDecoder.Words words, int[] codes, int count) {
      for (int i = 0; i < count; i++) {
        target[i] = words.doubles[codes[i]];
      }
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      return new Vector.OfDouble(type, count, target, nulls);
    }
  }

  /** Bytes point into a page or dictionary; when a second array comes, all are copied into one. */
  static final class ByteSink extends Sink {
    final int[] starts;
    final int[] lengths;
    private final int[] codes;
    private Vector.Words words;
    byte[] data;
    private int owned = -1;

    ByteSink(int count) {
      starts = new int[count];
      lengths = new int[count];
      codes = new int[count];
    }

    @Override
    void again() {
      words = null;
      data = null;
      owned = -1;
    }

    @Override
    void take(ValueDecoder values, int start, int count) {
      if (count == 0) {
        return;
      }
      byte[] from = values.bytes(starts, lengths, codes, start, count);
      words = data == null || words == values.words() ? values.words() : null;
      if (data == null || data == from) {
        data = from;
        return;
      }
      if (owned < 0) {
        byte[] old = data;
        data = new byte[Math.max(64, total(0, start))];
        owned = 0;
        copy(old, 0, start);
      }
      copy(from, start, start + count);
    }

    private int total(int from, int to) {
      int total = 0;
      for (int i = from; i < to; i++) {
        total = Math.addExact(total, lengths[i]);
      }
      return total;
    }

    private void copy(byte[] from, int first, int end) {
      int need = owned + total(first, end);
      if (need > data.length) {
        data = Arrays.copyOf(data, Math.max(need, data.length * 2));
      }
      for (int i = first; i < end; i++) {
        System.arraycopy(from, starts[i], data, owned, lengths[i]);
        starts[i] = owned;
        owned += lengths[i];
      }
    }

    @Override
    void move(int from, int to) {
      starts[to] = starts[from];
      lengths[to] = lengths[from];
      lengths[from] = 0;
      starts[from] = 0;
      codes[to] = codes[from];
    }

    @Override
    void put(ValueDecoder.Words dictionary, int[] numbers, int count) {
      data = dictionary.bytes.data;
      words = dictionary.bytes.shared;
      System.arraycopy(numbers, 0, codes, 0, count);
      for (int i = 0; i < count; i++) {
        starts[i] = dictionary.bytes.starts[numbers[i]];
        lengths[i] = dictionary.bytes.lengths[numbers[i]];
      }
    }

    @Override
    Vector vector(Type type, int count, long[] nulls) {
      byte[] held = data == null ? new byte[0] : data;
      boolean coded = words != null;
      return new Vector.OfBytes(
          type, count, held, starts, lengths, nulls, coded ? words : null, coded ? codes : null);
    }
  }
}
