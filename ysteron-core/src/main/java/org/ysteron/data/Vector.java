package org.ysteron.data;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * The values of one field for the rows of a batch, by physical form (see {@link Type.Physical}).
 * Immutable by agreement: the arrays are shared, not copied, and nobody writes to them. Safe for
 * many threads.
 *
 * <p>{@code nulls} has bit {@code i} (of word {@code i >> 6}) set when value {@code i} is null; it
 * is null itself when no value is. The value of a null position is undefined.
 */
@SuppressWarnings("ArrayRecordComponent") // shared, never written to; batches are not compared
public sealed interface Vector {

  Type type();

  /** How many values there are. */
  int size();

  /** A bit for each value, in words of 64, set where it is null; null when no value is. */
  long @Nullable [] nulls();

  /** The value at a position, which is not null, as its type's Java class. */
  Object present(int i);

  /** Whether the value at a position is null. */
  default boolean isNull(int i) {
    long[] nulls = nulls();
    return nulls != null && (nulls[i >> 6] & (1L << i)) != 0;
  }

  /** The value at a position as its type's Java class, or null. */
  default @Nullable Object get(int i) {
    return isNull(i) ? null : present(i);
  }

  /** How many values are null. */
  default int nullCount() {
    long[] nulls = nulls();
    int count = 0;
    for (int i = 0; nulls != null && i < (size() + 63) >> 6; i++) {
      count += Long.bitCount(nulls[i]);
    }
    return count;
  }

  /** Booleans. */
  record OfBoolean(Type type, int size, boolean[] values, long @Nullable [] nulls)
      implements Vector {
    @Override
    public Object present(int i) {
      return values[i];
    }
  }

  /** Integers and dates. */
  record OfInt(Type type, int size, int[] values, long @Nullable [] nulls) implements Vector {
    @Override
    public Object present(int i) {
      return Values.fromLong(values[i], type);
    }
  }

  /** Bigints, times, timestamps, instants, decimals of up to 18 digits. */
  record OfLong(Type type, int size, long[] values, long @Nullable [] nulls) implements Vector {
    @Override
    public Object present(int i) {
      return Values.fromLong(values[i], type);
    }
  }

  /** Reals. */
  record OfFloat(Type type, int size, float[] values, long @Nullable [] nulls) implements Vector {
    @Override
    public Object present(int i) {
      return values[i];
    }
  }

  /** Double precision numbers. */
  record OfDouble(Type type, int size, double[] values, long @Nullable [] nulls) implements Vector {
    @Override
    public Object present(int i) {
      return values[i];
    }
  }

  /**
   * Text, json, binary, uuids, decimals of more than 18 digits: value {@code i} is the {@code
   * lengths[i]} bytes of {@code data} from {@code starts[i]} on.
   */
  record OfBytes(
      Type type, int size, byte[] data, int[] starts, int[] lengths, long @Nullable [] nulls)
      implements Vector {
    @Override
    public Object present(int i) {
      return Values.fromBytes(data, starts[i], lengths[i], type);
    }
  }

  /**
   * Lists: value {@code i} is the elements from {@code offsets[i]} to before {@code offsets[i +
   * 1]}.
   */
  record OfList(Type type, int size, int[] offsets, Vector elements, long @Nullable [] nulls)
      implements Vector {
    @Override
    public Object present(int i) {
      List<Object> list = new ArrayList<>(offsets[i + 1] - offsets[i]);
      for (int at = offsets[i]; at < offsets[i + 1]; at++) {
        list.add(elements.get(at));
      }
      return list;
    }
  }

  /** Maps, laid out as lists of keys and of values. */
  record OfMap(
      Type type, int size, int[] offsets, Vector keys, Vector mapped, long @Nullable [] nulls)
      implements Vector {
    @Override
    public Object present(int i) {
      Map<Object, Object> map = new LinkedHashMap<>();
      for (int at = offsets[i]; at < offsets[i + 1]; at++) {
        map.put(keys.get(at), mapped.get(at));
      }
      return map;
    }
  }

  /** Structs: one vector a field, each as long as this one. */
  record OfStruct(Type type, int size, List<Vector> fields, long @Nullable [] nulls)
      implements Vector {
    @Override
    public Object present(int i) {
      Object[] values = new Object[fields.size()];
      for (int f = 0; f < values.length; f++) {
        values[f] = fields.get(f).get(i);
      }
      return Row.of((Type.Struct) type, values);
    }
  }
}
