package org.ysteron.data;

import java.util.ArrayList;
import java.util.IdentityHashMap;
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
   *
   * @param words the different values, where they come from a dictionary; else null
   * @param codes of each value that is not null its number among the words; null without words
   */
  record OfBytes(
      Type type,
      int size,
      byte[] data,
      int[] starts,
      int[] lengths,
      long @Nullable [] nulls,
      @Nullable Words words,
      int @Nullable [] codes)
      implements Vector {
    /** Values that are from no dictionary. */
    public OfBytes(
        Type type, int size, byte[] data, int[] starts, int[] lengths, long @Nullable [] nulls) {
      this(type, size, data, starts, lengths, nulls, null, null);
    }

    @Override
    public Object present(int i) {
      return Values.fromBytes(data, starts[i], lengths[i], type);
    }
  }

  /**
   * The values of a dictionary, which vectors of one row group share: what is found out of one of
   * them holds wherever it stands. Some values may be there more than once. Safe for many threads.
   */
  final class Words {
    private final byte[] data;
    private final int[] starts;
    private final int[] lengths;
    private final IdentityHashMap<Object, boolean[]> tested = new IdentityHashMap<>();

    /** Takes the values, which must not be changed any more. */
    public Words(byte[] data, int[] starts, int[] lengths) {
      this.data = data;
      this.starts = starts;
      this.lengths = lengths;
    }

    /** A test of the bytes of a value, the start included and the end not. */
    public interface Test {
      boolean passes(byte[] data, int start, int end);
    }

    /** How many there are. */
    public int count() {
      return starts.length;
    }

    /**
     * Which of the values pass a test.
     *
     * @param key stands for the test, whose answers are kept under it
     */
    public boolean[] tested(Object key, Test test) {
      synchronized (tested) {
        boolean[] known = tested.get(key);
        if (known == null) {
          known = new boolean[starts.length];
          for (int i = 0; i < known.length; i++) {
            known[i] = test.passes(data, starts[i], starts[i] + lengths[i]);
          }
          tested.put(key, known);
        }
        return known;
      }
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
