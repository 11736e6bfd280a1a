package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;

/**
 * Keys of rows as words of 64 bits, equal where the keys are: 0.0 and -0.0 are equal, NaN is equal
 * to itself. The first words say which parts are null, one for each 64 parts. For one thread.
 */
public final class Keys {
  private final List<Part> parts;
  private final int words;
  private final KeyTable table;
  private final int nullWords;
  private long[][] key;
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
      this.type = type;
      this.form = Held.form(type);
      this.wide = type instanceof Type.Decimal decimal && !decimal.isShort();
      this.bytes = form == Held.Form.BYTES ? new ByteTable(running) : null;
      if (form == Held.Form.NESTED) {
        throw new InvalidInputException(
            "Values of %s cannot be compared, grouped or joined.".formatted(type));
      }
    }
  }

  /** Keys of some types. */
  public Keys(List<Type> types, Running running) {
    this.parts = new ArrayList<>();
    this.nullWords = (types.size() + Long.SIZE - 1) / Long.SIZE;
    int number = nullWords;
    for (Type type : types) {
      Part part = new Part(type, running);
      parts.add(part);
      number += part.wide ? 2 : 1;
    }
    this.words = number;
    this.key = new long[number][0];
    this.table = new KeyTable(number, running);
  }

  /** Takes the parts of the keys from these expressions from now on. */
  public void of(List<Expression> expressions, Schema columns, Running running) {
    for (int p = 0; p < parts.size(); p++) {
      parts.get(p).computation = running.computation(expressions.get(p), columns);
    }
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
    }
    for (int w = 0; w < nullWords; w++) {
      Arrays.fill(key[w], 0, count, 0);
    }
    int word = nullWords;
    for (int p = 0; p < parts.size(); p++) {
      Part part = parts.get(p);
      Held held = part.computation.held(rows.batch(), rows.rows(), count);
      fill(part, held, Selected.rows(rows), count, word, adds);
      mark(held, Selected.rows(rows), count, p, word, part.wide);
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

  private void fill(Part part, Held held, int[] at, int count, int word, boolean adds) {
    long[] to = key[word];
    switch (part.form) {
      case LONGS -> {
        long[] from = held.longs();
        for (int i = 0; i < count; i++) {
          to[i] = from[at[i]];
        }
        if (part.wide) {
          long[] high = key[word + 1];
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

  /** The values that a part has in keys from a number on. */
  public Vector part(int part, int from, int count) {
    int word = nullWords;
    for (int p = 0; p < part; p++) {
      word += parts.get(p).wide ? 2 : 1;
    }
    Part of = parts.get(part);
    long[] mask = null;
    long[] lows = new long[count];
    for (int i = 0; i < count; i++) {
      lows[i] = table.word(from + i, word);
      if ((table.word(from + i, part / Long.SIZE) & (1L << part)) != 0) {
        mask = mask == null ? new long[(count + 63) >> 6] : mask;
        mask[i >> 6] |= 1L << i;
      }
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
