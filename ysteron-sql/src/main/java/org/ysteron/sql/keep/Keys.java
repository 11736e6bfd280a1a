package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.function.IntFunction;
import java.util.stream.IntStream;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;

/**
 * Keys of rows as words of 64 bits, equal where the keys are: 0.0 and -0.0 are equal, NaN is equal
 * to itself. A key of one word has a number for null. Of several texts two share a word, as their
 * numbers. For other keys the first words say which parts are null, one for each 64 parts. For one
 * thread.
 */
public final class Keys {
  private static final long HALF = 0xFFFF_FFFFL;

  /** What stands for a text that is null; -1 stands for one that has no number. */
  private static final long NULL_TEXT = -2;

  private final List<Part> parts;
  private final int words;
  private final KeyTable table;
  private final int nullWords;
  private final boolean isOne;
  private final boolean isPacked;
  private final boolean isOfTexts;
  private final CodedKeys coded = new CodedKeys();
  private long[][] key;
  private long[][] texts = {};
  private final Held[] held;
  private boolean[] areNull = {};
  private int room;

  /** One part of the keys. */
  private static final class Part {
    final Type type;
    final Held.Form form;
    final boolean wide;
    final ByteTable bytes;
    Computation computation;
    Vector.Words words;
    int[] numbers = {};

    Part(Type type, Running running) {
      this(type, Held.form(type) == Held.Form.BYTES ? new ByteTable(running) : null);
    }

    Part(Type type, ByteTable bytes) {
      this.type = type;
      this.form = Held.form(type);
      this.wide = type instanceof Type.Decimal decimal && !decimal.isShort();
      this.bytes = bytes;
      if (form == Held.Form.NESTED) {
        throw new InvalidInputException(
            "Values of %s cannot be compared, grouped or joined.".formatted(type));
      }
    }
  }

  /** Keys of some types. */
  public Keys(List<Type> types, Running running) {
    this(
        types.stream().map(type -> new Part(type, running)).toList(),
        words -> new KeyTable(words, running));
  }

  private Keys(List<Part> parts, IntFunction<KeyTable> tableOf) {
    this.parts = parts;
    this.held = new Held[parts.size()];
    this.isOne = parts.size() == 1 && !parts.get(0).wide;
    this.isOfTexts =
        !parts.isEmpty() && parts.stream().allMatch(part -> part.form == Held.Form.BYTES);
    this.isPacked = isOfTexts && parts.size() > 1;
    this.nullWords = isOne || isPacked ? 0 : (parts.size() + Long.SIZE - 1) / Long.SIZE;
    int number = isPacked ? (parts.size() + 1) / 2 : nullWords;
    for (Part part : isPacked ? List.<Part>of() : parts) {
      number += part.wide ? 2 : 1;
    }
    this.words = number;
    this.key = new long[number][0];
    this.table = tableOf.apply(number);
  }

  /**
   * The same keys for another thread. None may be added any more: threads find them at the same
   * time.
   */
  public Keys reading() {
    return new Keys(
        parts.stream().map(part -> new Part(part.type, part.bytes)).toList(), words -> table);
  }

  /** Takes the parts of the keys from these expressions from now on. */
  public void of(List<Expression> expressions, Schema columns, Running running) {
    for (int p = 0; p < parts.size(); p++) {
      parts.get(p).computation = running.computation(expressions.get(p), columns);
    }
  }

  /** Columns by their numbers, as parts of keys. */
  public static List<Expression> columns(Schema columns, Collection<Integer> numbers) {
    List<Expression> parts = new ArrayList<>();
    for (int number : numbers) {
      parts.add(new Column(Schema.path(List.of(columns.columns().get(number).name()))));
    }
    return parts;
  }

  /** All columns, as parts of keys. */
  public static List<Expression> columns(Schema columns) {
    return columns(columns, IntStream.range(0, columns.columns().size()).boxed().toList());
  }

  public int count() {
    return table.count();
  }

  /**
   * Finds the numbers of the keys of rows.
   *
   * @param adds whether new keys get a number; else they have -1
   * @param nullsMeet whether a null is equal to another; else keys with nulls have -1
   */
  public void find(SelectedBatch rows, int[] numbers, boolean adds, boolean nullsMeet) {
    int count = rows.count();
    if (room < count) {
      room = count;
      key = new long[words][count];
      texts = new long[isPacked ? parts.size() : 0][count];
      areNull = new boolean[count];
    }
    for (int p = 0; p < held.length; p++) {
      held[p] = parts.get(p).computation.held(rows.batch(), rows.rows(), count);
    }
    int[] at = Selected.rows(rows);
    if (isOfTexts && CodedKeys.fits(held)) {
      coded.find(held, at, count, numbers, row -> number(row, adds));
    } else if (isOne) {
      findOne(at, count, numbers, adds, nullsMeet);
    } else if (isPacked) {
      findPacked(at, count, numbers, adds, nullsMeet);
    } else {
      findAny(at, count, numbers, adds, nullsMeet);
    }
  }

  /** The number of the key of texts of one row. */
  private int number(int row, boolean adds) {
    long[][] one = new long[words][1];
    int[] number = new int[1];
    for (int p = 0; p < held.length; p++) {
      Held of = held[p];
      long text =
          parts.get(p).bytes.find(of.data(), of.starts()[row], of.lengths()[row], adds) & HALF;
      one[p / 2][0] |= p % 2 == 0 ? text : text << Integer.SIZE;
    }
    table.find(one, 1, number, adds);
    return number[0];
  }

  private void findOne(int[] at, int count, int[] numbers, boolean adds, boolean nullsMeet) {
    fill(parts.get(0), held[0], at, count, key[0], null, adds);
    if (held[0].nulls() == null) {
      table.find(key, count, numbers, adds);
      return;
    }
    for (int i = 0; i < count; i++) {
      areNull[i] = held[0].isNull(at[i]);
    }
    table.findOne(key[0], areNull, count, numbers, adds);
    for (int i = 0; i < count && !nullsMeet; i++) {
      numbers[i] = areNull[i] ? -1 : numbers[i];
    }
  }

  private void findPacked(int[] at, int count, int[] numbers, boolean adds, boolean nullsMeet) {
    Arrays.fill(areNull, 0, count, false);
    for (int p = 0; p < held.length; p++) {
      texts(parts.get(p), held[p], at, count, texts[p], adds);
      for (int i = 0; i < count && held[p].nulls() != null; i++) {
        if (held[p].isNull(at[i])) {
          texts[p][i] = NULL_TEXT;
          areNull[i] = true;
        }
      }
    }
    for (int w = 0; w < words; w++) {
      long[] low = texts[2 * w];
      long[] high = 2 * w + 1 < parts.size() ? texts[2 * w + 1] : null;
      for (int i = 0; i < count; i++) {
        key[w][i] = (low[i] & HALF) | (high == null ? 0 : high[i] << Integer.SIZE);
      }
    }
    table.find(key, count, numbers, adds);
    for (int i = 0; i < count && !nullsMeet; i++) {
      numbers[i] = areNull[i] ? -1 : numbers[i];
    }
  }

  private void findAny(int[] at, int count, int[] numbers, boolean adds, boolean nullsMeet) {
    for (int w = 0; w < nullWords; w++) {
      Arrays.fill(key[w], 0, count, 0);
    }
    int word = nullWords;
    for (int p = 0; p < parts.size(); p++) {
      Part part = parts.get(p);
      long[] high = part.wide ? key[word + 1] : null;
      fill(part, held[p], at, count, key[word], high, adds);
      mark(held[p], at, count, p, word, part.wide);
      word += part.wide ? 2 : 1;
    }
    table.find(key, count, numbers, adds);
    for (int w = 0; w < nullWords && !nullsMeet; w++) {
      for (int i = 0; i < count; i++) {
        numbers[i] = key[w][i] == 0 ? numbers[i] : -1;
      }
    }
  }

  private void mark(Held held, int[] at, int count, int part, int word, boolean wide) {
    if (held.nulls() == null) {
      return;
    }
    for (int i = 0; i < count; i++) {
      if (held.isNull(at[i])) {
        key[part / Long.SIZE][i] |= 1L << part;
        key[word][i] = 0;
        if (wide) {
          key[word + 1][i] = 0;
        }
      }
    }
  }

  private static void fill(
      Part part, Held held, int[] at, int count, long[] to, long[] high, boolean adds) {
    switch (part.form) {
      case LONGS -> {
        long[] from = held.longs();
        for (int i = 0; i < count; i++) {
          to[i] = from[at[i]];
        }
        if (part.wide) {
          for (int i = 0; i < count; i++) {
            high[i] = held.highs() == null ? from[at[i]] >> 63 : held.highs()[at[i]];
          }
        }
      }
      case DOUBLES -> {
        double[] from = held.doubles();
        for (int i = 0; i < count; i++) {
          to[i] = Double.doubleToLongBits(from[at[i]] + 0.0);
        }
      }
      case BYTES -> texts(part, held, at, count, to, adds);
      case NESTED -> throw new IllegalStateException("refused when the keys were made");
    }
  }

  /** Each different word of a dictionary is looked up once. */
  private static void texts(Part part, Held held, int[] at, int count, long[] to, boolean adds) {
    boolean coded = held.words() != null && held.words().count() <= 1 << 16;
    if (coded && part.words != held.words()) {
      part.words = held.words();
      part.numbers = new int[held.words().count()];
      Arrays.fill(part.numbers, -1);
    }
    for (int i = 0; i < count; i++) {
      int row = at[i];
      if (held.isNull(row)) {
        continue;
      }
      if (!coded) {
        to[i] = part.bytes.find(held.data(), held.starts()[row], held.lengths()[row], adds);
        continue;
      }
      int code = held.codes()[row];
      int number = part.numbers[code];
      if (number < 0) {
        number = part.bytes.find(held.data(), held.starts()[row], held.lengths()[row], adds);
        part.numbers[code] = number;
      }
      to[i] = number;
    }
  }

  /** Whether a part of the keys of some rows is null. */
  public boolean haveNulls(SelectedBatch rows) {
    int[] at = Selected.rows(rows);
    for (Part part : parts) {
      Held held = part.computation.held(rows.batch(), rows.rows(), rows.count());
      for (int i = 0; i < rows.count() && held.nulls() != null; i++) {
        if (held.isNull(at[i])) {
          return true;
        }
      }
    }
    return false;
  }

  /**
   * Which of some parts the keys of rows belong to, other parts at each depth.
   *
   * @param parts gets the part of each row
   */
  public void parts(SelectedBatch rows, int[] parts, int most, int depth) {
    int count = rows.count();
    int[] at = Selected.rows(rows);
    long[] hashes = new long[count];
    Arrays.fill(hashes, depth + 1);
    for (Part part : this.parts) {
      Held held = part.computation.held(rows.batch(), rows.rows(), count);
      for (int i = 0; i < count; i++) {
        int row = at[i];
        long value = held.isNull(row) ? 0 : hash(part, held, row);
        long mixed = (hashes[i] ^ value) * 0x9E3779B97F4A7C15L;
        hashes[i] = mixed ^ (mixed >>> 31);
      }
    }
    for (int i = 0; i < count; i++) {
      parts[i] = (int) Long.remainderUnsigned((hashes[i] * 0xD6E8FEB86659FD93L) >>> 17, most);
    }
  }

  private static long hash(Part part, Held held, int row) {
    return switch (part.form) {
      case LONGS -> held.longs()[row];
      case DOUBLES -> Double.doubleToLongBits(held.doubles()[row] + 0.0);
      case BYTES -> ByteTable.HASH.hashBytes(held.data(), held.starts()[row], held.lengths()[row]);
      case NESTED -> throw new IllegalStateException("refused when the keys were made");
    };
  }

  private long word(int number, int word, int part) {
    long whole = table.word(number, word);
    if (!isPacked) {
      return whole;
    }
    return part % 2 == 0 ? whole & HALF : whole >>> Integer.SIZE;
  }

  private boolean isNull(int number, int part) {
    if (isOne) {
      return number == table.ofNull();
    }
    return isPacked
        ? word(number, part / 2, part) == (NULL_TEXT & HALF)
        : (table.word(number, part / Long.SIZE) & (1L << part)) != 0;
  }

  /** The values that a part has in keys from a number on. */
  public Vector part(int part, int from, int count) {
    int word = isPacked ? part / 2 : nullWords;
    for (int p = 0; p < part && !isPacked; p++) {
      word += parts.get(p).wide ? 2 : 1;
    }
    Part of = parts.get(part);
    long[] mask = Made.nullBits(count, i -> isNull(from + i, part));
    long[] lows = new long[count];
    for (int i = 0; i < count; i++) {
      lows[i] = word(from + i, word, part);
    }
    if (of.form == Held.Form.BYTES) {
      int[] numbers = new int[count];
      for (int i = 0; i < count; i++) {
        numbers[i] = (int) lows[i];
      }
      return of.bytes.vector(of.type, numbers, mask);
    }
    long[] highs = null;
    if (of.wide) {
      highs = new long[count];
      for (int i = 0; i < count; i++) {
        highs[i] = table.word(from + i, word + 1);
      }
    }
    return Made.vector(of.type, count, lows, highs, mask);
  }
}
