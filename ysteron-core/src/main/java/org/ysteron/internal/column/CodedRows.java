package org.ysteron.internal.column;

import java.util.Arrays;
import java.util.IdentityHashMap;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.ColumnTest;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.rows.Gather;

/**
 * Rows of a leaf in arrays that serve again for the next rows: as numbers of the dictionary as long
 * as all come from it, so that each different value is tested once, else as values. For one thread.
 */
final class CodedRows extends Sink {
  /** A larger dictionary is not tested word by word. */
  private static final int MOST_WORDS = 1 << 16;

  private final Type type;
  private final Sink values;
  private final int[] codes;
  private final IdentityHashMap<ColumnTest, boolean[]> tested = new IdentityHashMap<>();
  private ValueDecoder.Words words;
  private boolean coded;
  private boolean expanded;
  private long[] nulls;
  private long from = -1;
  private int count;
  private int[] some;
  private int someNext;
  private int someEnd;

  CodedRows(Type type, int capacity) {
    this.type = type;
    this.values = Sink.of(type, capacity);
    this.codes = new int[capacity];
  }

  int capacity() {
    return codes.length;
  }

  /** Goes on with another row group. */
  void forget() {
    from = -1;
    words = null;
    Arrays.fill(codes, 0);
  }

  /** Whether these are rows that were read last. */
  boolean has(long first, int rows) {
    return from == first && count == rows;
  }

  /**
   * Starts with other rows.
   *
   * @param wanted those that are needed, ascending; null for all
   * @param number how many
   */
  void begin(long first, int rows, int[] wanted, int number) {
    from = first;
    count = rows;
    some = wanted;
    someEnd = number;
    someNext = 0;
    coded = true;
    expanded = false;
    values.again();
  }

  void end(long[] bits) {
    nulls = bits;
  }

  @Override
  void takeRows(ValueDecoder decoder, int start, int number) {
    if (some == null || !coded || !(decoder instanceof DictionaryDecoder dictionary)) {
      take(decoder, start, number);
      return;
    }
    learn(dictionary);
    while (someNext < someEnd && some[someNext] < start) {
      someNext++;
    }
    int first = someNext;
    while (someNext < someEnd && some[someNext] < start + number) {
      someNext++;
    }
    dictionary.codesAt(codes, start, number, some, first, someNext);
  }

  private void learn(DictionaryDecoder dictionary) {
    if (words != dictionary.dictionary()) {
      words = dictionary.dictionary();
      tested.clear();
    }
  }

  @Override
  void take(ValueDecoder decoder, int start, int number) {
    if (coded && decoder instanceof DictionaryDecoder dictionary) {
      learn(dictionary);
      dictionary.codes(codes, start, number);
      return;
    }
    if (number > 0 && coded) {
      if (start > 0) {
        values.put(words, codes, start);
      }
      coded = false;
    }
    values.take(decoder, start, number);
  }

  @Override
  void move(int source, int target) {
    if (coded) {
      codes[target] = codes[source];
      codes[source] = 0;
    } else {
      values.move(source, target);
    }
  }

  @Override
  void put(ValueDecoder.Words from, int[] numbers, int number) {
    throw new IllegalStateException("these are numbers already");
  }

  @Override
  Vector vector(Type of, int rows, long[] bits) {
    return all();
  }

  /** All rows, good until others are read. */
  Vector all() {
    if (coded && !expanded && words != null && words.size() > 0) {
      values.put(words, codes, count);
      expanded = true;
    }
    return values.vector(type, count, nulls);
  }

  /** Narrows a selection of the rows in place; returns how many are left. */
  int narrow(ColumnTest test, int[] rows, int left) {
    if (!coded || words == null || words.size() > MOST_WORDS) {
      return test.select(all(), rows, left, rows);
    }
    boolean[] passes = tested.computeIfAbsent(test, this::test);
    boolean ofNull = test.passesNull();
    int kept = 0;
    for (int j = 0; j < left; j++) {
      int i = rows[j];
      boolean isNull = nulls != null && (nulls[i >> 6] & (1L << i)) != 0;
      rows[kept] = i;
      kept += (isNull ? ofNull : passes[codes[i]]) ? 1 : 0;
    }
    return kept;
  }

  private boolean[] test(ColumnTest test) {
    boolean[] passes = new boolean[words.size()];
    for (int i = 0; i < passes.length; i++) {
      passes[i] =
          switch (type.physical()) {
            case INT -> test.passes(words.ints[i]);
            case LONG -> test.passes(words.longs[i]);
            case FLOAT -> test.passes(Ordered.ofDouble(words.floats[i]));
            case DOUBLE -> test.passes(Ordered.ofDouble(words.doubles[i]));
            default ->
                test.passes(
                    words.bytes.data,
                    words.bytes.starts[i],
                    words.bytes.starts[i] + words.bytes.lengths[i]);
          };
    }
    return passes;
  }

  /** Some of the rows, in arrays of their own. */
  Vector some(int[] rows) {
    boolean direct = coded && !expanded && words != null && nulls == null;
    if (direct && type.physical() == Type.Physical.LONG) {
      long[] some = new long[rows.length];
      for (int j = 0; j < some.length; j++) {
        some[j] = words.longs[codes[rows[j]]];
      }
      return new Vector.OfLong(type, some.length, some, null);
    }
    if (direct && type.physical() == Type.Physical.INT) {
      int[] some = new int[rows.length];
      for (int j = 0; j < some.length; j++) {
        some[j] = words.ints[codes[rows[j]]];
      }
      return new Vector.OfInt(type, some.length, some, null);
    }
    if (direct && type.physical() == Type.Physical.BYTES) {
      int[] numbers = new int[rows.length];
      int[] starts = new int[rows.length];
      int[] lengths = new int[rows.length];
      for (int j = 0; j < numbers.length; j++) {
        numbers[j] = codes[rows[j]];
        starts[j] = words.bytes.starts[numbers[j]];
        lengths[j] = words.bytes.lengths[numbers[j]];
      }
      return new Vector.OfBytes(
          type, rows.length, words.bytes.data, starts, lengths, null, words.bytes.shared, numbers);
    }
    Vector some = Gather.values(all(), rows);
    return some instanceof Vector.OfBytes bytes && !coded ? owned(bytes) : some;
  }

  /** With bytes of its own: those of the rows may be written over. */
  private static Vector owned(Vector.OfBytes of) {
    int total = 0;
    for (int i = 0; i < of.size(); i++) {
      total = Math.addExact(total, of.lengths()[i]);
    }
    byte[] data = new byte[total];
    int at = 0;
    for (int i = 0; i < of.size(); i++) {
      System.arraycopy(of.data(), of.starts()[i], data, at, of.lengths()[i]);
      of.starts()[i] = at;
      at += of.lengths()[i];
    }
    return new Vector.OfBytes(of.type(), of.size(), data, of.starts(), of.lengths(), of.nulls());
  }
}
