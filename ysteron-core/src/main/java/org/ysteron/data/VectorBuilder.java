package org.ysteron.data;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Collects values of one field and makes a {@link Vector} of them. Values must have been accepted
 * (see {@link Values#accept}). After {@link #build()} the builder is empty and starts anew. For one
 * thread.
 */
@SuppressWarnings("NullAway.Init") // which arrays there are depends on the physical type
public final class VectorBuilder {
  private final Type type;
  private final Type.Physical physical;
  private final List<VectorBuilder> inner = new ArrayList<>();
  private int size;
  private long @Nullable [] nulls;
  private boolean[] booleans;
  private int[] ints;
  private long[] longs;
  private float[] floats;
  private double[] doubles;
  private byte[] data;
  private int dataSize;
  private int[] lengths;

  public VectorBuilder(Type type) {
    this(type, 64);
  }

  /** A builder for about so many values. */
  public VectorBuilder(Type type, int capacity) {
    this.type = type;
    this.physical = type.physical();
    Schema.children(type).forEach(field -> inner.add(new VectorBuilder(field.type(), capacity)));
    reset(capacity);
  }

  private void reset(int capacity) {
    size = 0;
    nulls = null;
    dataSize = 0;
    switch (physical) {
      case BOOLEAN -> booleans = new boolean[capacity];
      case INT -> ints = new int[capacity];
      case LONG -> longs = new long[capacity];
      case FLOAT -> floats = new float[capacity];
      case DOUBLE -> doubles = new double[capacity];
      case BYTES -> {
        ints = new int[capacity];
        lengths = new int[capacity];
        data = new byte[capacity * 8];
      }
      case NESTED -> ints = new int[capacity + 1];
    }
  }

  public int size() {
    return size;
  }

  /** The builder of a list's elements, of a map's keys or values, of a struct's field. */
  public VectorBuilder inner(int i) {
    return inner.get(i);
  }

  /** Makes room for so many values more. */
  private void reserve(int count) {
    if (physical == Type.Physical.LONG && size + count > longs.length) {
      longs = Arrays.copyOf(longs, Math.max(size + count, size * 2));
    } else if (physical == Type.Physical.INT && size + count > ints.length) {
      ints = Arrays.copyOf(ints, Math.max(size + count, size * 2));
    }
  }

  private void grow() {
    int more = Math.max(64, size * 2);
    switch (physical) {
      case BOOLEAN -> {
        if (size == booleans.length) {
          booleans = Arrays.copyOf(booleans, more);
        }
      }
      case INT -> {
        if (size == ints.length) {
          ints = Arrays.copyOf(ints, more);
        }
      }
      case LONG -> {
        if (size == longs.length) {
          longs = Arrays.copyOf(longs, more);
        }
      }
      case FLOAT -> {
        if (size == floats.length) {
          floats = Arrays.copyOf(floats, more);
        }
      }
      case DOUBLE -> {
        if (size == doubles.length) {
          doubles = Arrays.copyOf(doubles, more);
        }
      }
      case BYTES -> {
        if (size == ints.length) {
          ints = Arrays.copyOf(ints, more);
          lengths = Arrays.copyOf(lengths, more);
        }
      }
      case NESTED -> {
        if (size + 1 >= ints.length) {
          ints = Arrays.copyOf(ints, more + 1);
        }
      }
    }
  }

  /** Adds a value or null. */
  public void add(@Nullable Object value) {
    if (value == null) {
      addNull();
      return;
    }
    switch (physical) {
      case BOOLEAN -> addBoolean((Boolean) value);
      case INT -> addInt((int) Values.toLong(value, type));
      case LONG -> addLong(longOf(value));
      case FLOAT -> addFloat((Float) value);
      case DOUBLE -> addDouble((Double) value);
      case BYTES -> {
        byte[] bytes = Values.toBytes(value, type);
        addBytes(bytes, 0, bytes.length);
      }
      case NESTED -> addNested(value);
    }
  }

  /** Adds some values of a vector of this type. */
  public void addAll(Vector vector, int[] positions, int count) {
    if (vector.nulls() == null && vector instanceof Vector.OfLong of) {
      reserve(count);
      for (int p = 0; p < count; p++) {
        longs[size++] = of.values()[positions[p]];
      }
      return;
    }
    if (vector.nulls() == null && vector instanceof Vector.OfInt of) {
      reserve(count);
      for (int p = 0; p < count; p++) {
        ints[size++] = of.values()[positions[p]];
      }
      return;
    }
    for (int p = 0; p < count; p++) {
      add(vector, positions[p]);
    }
  }

  /**
   * Adds values of several vectors of this type.
   *
   * @param which the number of the vector of each value
   * @param positions where in its vector each value is
   */
  public void addAll(Vector[] vectors, int[] which, int[] positions, int count) {
    boolean areLongs = physical == Type.Physical.LONG;
    for (Vector vector : vectors) {
      areLongs &= vector == null || vector.nulls() == null;
    }
    if (areLongs) {
      reserve(count);
      long[][] values = new long[vectors.length][];
      for (int v = 0; v < vectors.length; v++) {
        values[v] = vectors[v] == null ? new long[0] : ((Vector.OfLong) vectors[v]).values();
      }
      for (int i = 0; i < count; i++) {
        longs[size++] = values[which[i]][positions[i]];
      }
      return;
    }
    for (int i = 0; i < count; i++) {
      add(vectors[which[i]], positions[i]);
    }
  }

  private void add(Vector vector, int i) {
    if (vector.isNull(i)) {
      addNull();
    } else if (vector instanceof Vector.OfLong of) {
      addLong(of.values()[i]);
    } else if (vector instanceof Vector.OfInt of) {
      addInt(of.values()[i]);
    } else if (vector instanceof Vector.OfDouble of) {
      addDouble(of.values()[i]);
    } else if (vector instanceof Vector.OfBytes of) {
      addBytes(of.data(), of.starts()[i], of.lengths()[i]);
    } else if (vector instanceof Vector.OfFloat of) {
      addFloat(of.values()[i]);
    } else if (vector instanceof Vector.OfBoolean of) {
      addBoolean(of.values()[i]);
    } else {
      add(vector.present(i));
    }
  }

  private long longOf(Object value) {
    if (value instanceof BigDecimal decimal) {
      return decimal.scaleByPowerOfTen(decimal.scale()).longValue();
    }
    return Values.toLong(value, type);
  }

  private void addNested(Object value) {
    if (type instanceof Type.ListOf) {
      ((List<?>) value).forEach(inner.get(0)::add);
      endNested();
    } else if (type instanceof Type.MapOf) {
      for (Map.Entry<?, ?> entry : ((Map<?, ?>) value).entrySet()) {
        inner.get(0).add(entry.getKey());
        inner.get(1).add(entry.getValue());
      }
      endNested();
    } else {
      Row row = (Row) value;
      for (int i = 0; i < inner.size(); i++) {
        inner.get(i).add(row.get(i));
      }
      endNested();
    }
  }

  /** Ends a list, map or struct whose inner values were added to the inner builders. */
  public void endNested() {
    grow();
    if (!(type instanceof Type.Struct)) {
      ints[size + 1] = inner.get(0).size();
    }
    size++;
  }

  /** Adds a null; inside a struct all fields get one too. */
  public void addNull() {
    grow();
    int word = size >> 6;
    if (nulls == null) {
      nulls = new long[Math.max(4, word + 1)];
    } else if (word >= nulls.length) {
      nulls = Arrays.copyOf(nulls, word * 2);
    }
    nulls[word] |= 1L << size;
    if (physical == Type.Physical.NESTED) {
      if (type instanceof Type.Struct) {
        inner.forEach(VectorBuilder::addNull);
      } else {
        ints[size + 1] = inner.get(0).size();
      }
    }
    size++;
  }

  public void addBoolean(boolean value) {
    grow();
    booleans[size++] = value;
  }

  public void addInt(int value) {
    grow();
    ints[size++] = value;
  }

  public void addLong(long value) {
    grow();
    longs[size++] = value;
  }

  public void addFloat(float value) {
    grow();
    floats[size++] = value;
  }

  public void addDouble(double value) {
    grow();
    doubles[size++] = value;
  }

  /** Adds a value given by its bytes, which are copied. */
  public void addBytes(byte[] bytes, int start, int length) {
    grow();
    if (dataSize + length > data.length) {
      data = Arrays.copyOf(data, Math.max(dataSize + length, data.length * 2));
    }
    System.arraycopy(bytes, start, data, dataSize, length);
    ints[size] = dataSize;
    lengths[size++] = length;
    dataSize += length;
  }

  /** Bytes that the values take, about. */
  public long heldBytes() {
    long own =
        switch (physical) {
          case BOOLEAN -> size;
          case INT, FLOAT -> 4L * size;
          case LONG, DOUBLE -> 8L * size;
          case BYTES -> 8L * size + dataSize;
          case NESTED -> 4L * size;
        };
    for (VectorBuilder builder : inner) {
      own += builder.heldBytes();
    }
    return own;
  }

  /** A vector of one value, good until the builder is used again. */
  public Vector single(@Nullable Object value) {
    clear();
    add(value);
    return buildLast();
  }

  private void clear() {
    size = 0;
    nulls = null;
    dataSize = 0;
    inner.forEach(VectorBuilder::clear);
  }

  /** The values as a vector; the builder starts anew. */
  public Vector build() {
    Vector vector = buildLast();
    reset(Math.max(64, size));
    return vector;
  }

  /** The values as a vector; the builder is not to be used any more. */
  public Vector buildLast() {
    long @Nullable [] mask = nulls;
    if (mask != null && mask.length < (size + 63) >> 6) {
      mask = Arrays.copyOf(mask, (size + 63) >> 6);
    }
    Vector vector =
        switch (physical) {
          case BOOLEAN -> new Vector.OfBoolean(type, size, booleans, mask);
          case INT -> new Vector.OfInt(type, size, ints, mask);
          case LONG -> new Vector.OfLong(type, size, longs, mask);
          case FLOAT -> new Vector.OfFloat(type, size, floats, mask);
          case DOUBLE -> new Vector.OfDouble(type, size, doubles, mask);
          case BYTES -> new Vector.OfBytes(type, size, data, ints, lengths, mask);
          case NESTED -> buildNested(mask);
        };
    return vector;
  }

  private Vector buildNested(long @Nullable [] mask) {
    List<Vector> vectors = inner.stream().map(VectorBuilder::build).toList();
    if (type instanceof Type.ListOf) {
      return new Vector.OfList(type, size, ints, vectors.get(0), mask);
    }
    if (type instanceof Type.MapOf) {
      return new Vector.OfMap(type, size, ints, vectors.get(0), vectors.get(1), mask);
    }
    return new Vector.OfStruct(type, size, vectors, mask);
  }
}
