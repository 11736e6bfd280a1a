package org.ysteron.internal.compute;

import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.internal.text.Characters;

/** Functions of text, in characters; no row makes an object. */
final class TextKernels {
  private static final int WIDEST = 4;

  private TextKernels() {}

  /** {@code ||}. */
  static final class Concat extends Kernel {
    private final Kernel left;
    private final Kernel right;

    Concat(Kernel left, Kernel right) {
      super(Types.text());
      this.left = left;
      this.right = right;
    }

    @Override
    public Held eval(Rows rows) {
      Held one = left.eval(rows);
      Held other = right.eval(rows);
      out.begin(rows, Held.Form.BYTES, one, other);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          int length = Math.addExact(one.lengths[i], other.lengths[i]);
          int at = out.room(length);
          System.arraycopy(one.data, one.starts[i], out.data, at, one.lengths[i]);
          System.arraycopy(
              other.data, other.starts[i], out.data, at + one.lengths[i], other.lengths[i]);
          out.end(i, length);
        }
      }
      return out;
    }
  }

  /** UPPER and LOWER: each character becomes the one that Unicode gives it by itself. */
  static final class Cases extends Kernel {
    private final Kernel of;
    private final boolean upper;

    Cases(Kernel of, boolean upper) {
      super(Types.text());
      this.of = of;
      this.upper = upper;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.BYTES, from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          int at = out.room(Math.multiplyExact(from.lengths[i], WIDEST));
          out.end(i, convert(from, i, at) - at);
        }
      }
      return out;
    }

    private int convert(Held from, int row, int to) {
      int at = from.starts[row];
      int end = at + from.lengths[row];
      int next = to;
      while (at < end) {
        byte b = from.data[at];
        if (b >= 0) {
          boolean changes = upper ? b >= 'a' && b <= 'z' : b >= 'A' && b <= 'Z';
          out.data[next++] = (byte) (changes ? b ^ 0x20 : b);
          at++;
        } else {
          int c = Characters.at(from.data, at);
          next =
              Characters.put(
                  upper ? Character.toUpperCase(c) : Character.toLowerCase(c), out.data, next);
          at += Characters.width(b);
        }
      }
      return next;
    }
  }

  /** TRIM: without a character at one end or both. */
  static final class Trim extends Kernel {
    private final Kernel of;
    private final Kernel character;
    private final boolean leading;
    private final boolean trailing;

    Trim(Operator operator, Kernel of, Kernel character) {
      super(Types.text());
      this.of = of;
      this.character = character;
      this.leading = operator != Operator.TRIM_TRAILING;
      this.trailing = operator != Operator.TRIM_LEADING;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Held what = character.eval(rows);
      out.begin(rows, Held.Form.BYTES, from, what);
      out.share(from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          trim(from, what, i);
        }
      }
      return out;
    }

    private void trim(Held from, Held what, int i) {
      int length = what.lengths[i];
      if (Characters.count(what.data, what.starts[i], length) != 1) {
        throw failure(i, "TRIM takes one character away, not " + what.show(i, Types.text()));
      }
      int start = from.starts[i];
      int end = start + from.lengths[i];
      while (leading
          && end - start >= length
          && Characters.same(from.data, start, what.data, what.starts[i], length)) {
        start += length;
      }
      while (trailing
          && end - start >= length
          && Characters.same(from.data, end - length, what.data, what.starts[i], length)) {
        end -= length;
      }
      out.starts[i] = start;
      out.lengths[i] = end - start;
    }
  }

  /** SUBSTRING: the part of a text that lies between two positions, which may lie outside. */
  static final class Substring extends Kernel {
    private final Kernel of;
    private final Kernel start;
    private final Kernel length;

    /** {@code length} is null for all that follows. */
    Substring(Kernel of, Kernel start, Kernel length) {
      super(Types.text());
      this.of = of;
      this.start = start;
      this.length = length;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Held first = start.eval(rows);
      Held count = length == null ? null : length.eval(rows);
      out.begin(rows, Held.Form.BYTES, from, first);
      if (count != null) {
        out.nullsOf(count);
      }
      out.share(from);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          cut(from, i, first.longs[i], count == null ? Long.MAX_VALUE : count.longs[i]);
        }
      }
      return out;
    }

    private void cut(Held from, int i, long first, long count) {
      if (count < 0) {
        throw failure(i, "SUBSTRING of " + count + " characters: the length must not be negative");
      }
      boolean toEnd = length == null || (first > 0 && count > Long.MAX_VALUE - first);
      long behind = toEnd ? Long.MAX_VALUE : first + count;
      long skip = Math.max(1, first) - 1;
      int end = from.starts[i] + from.lengths[i];
      int at = Characters.skip(from.data, from.starts[i], end, skip);
      int to = Characters.skip(from.data, at, end, Math.max(0, behind - 1 - skip));
      out.starts[i] = at;
      out.lengths[i] = to - at;
    }
  }

  /** OVERLAY: a text with another in place of some of its characters. */
  static final class Overlay extends Kernel {
    private final Kernel of;
    private final Kernel placed;
    private final Kernel start;
    private final Kernel length;

    /** {@code length} is null for the length of what is put in. */
    Overlay(Kernel of, Kernel placed, Kernel start, Kernel length) {
      super(Types.text());
      this.of = of;
      this.placed = placed;
      this.start = start;
      this.length = length;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Held with = placed.eval(rows);
      Held first = start.eval(rows);
      Held count = length == null ? first : length.eval(rows);
      out.begin(rows, Held.Form.BYTES, from, with, first, count);
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!out.isNull(i)) {
          long replaced =
              length == null
                  ? Characters.count(with.data, with.starts[i], with.lengths[i])
                  : count.longs[i];
          put(from, with, i, first.longs[i], replaced);
        }
      }
      return out;
    }

    /** SUBSTRING(of FROM 1 FOR first - 1) || placed || SUBSTRING(of FROM first + replaced). */
    private void put(Held from, Held with, int i, long first, long replaced) {
      if (first < 1) {
        throw failure(i, "OVERLAY from character " + first + ": the first character is 1");
      }
      int begin = from.starts[i];
      int end = begin + from.lengths[i];
      int head = Characters.skip(from.data, begin, end, first - 1);
      long behind = replaced > Long.MAX_VALUE - first ? Long.MAX_VALUE : first + replaced;
      int tail = Characters.skip(from.data, begin, end, Math.max(0, behind - 1));
      int total = Math.addExact(Math.addExact(head - begin, with.lengths[i]), end - tail);
      int at = out.room(total);
      System.arraycopy(from.data, begin, out.data, at, head - begin);
      at += head - begin;
      System.arraycopy(with.data, with.starts[i], out.data, at, with.lengths[i]);
      at += with.lengths[i];
      System.arraycopy(from.data, tail, out.data, at, end - tail);
      out.end(i, total);
    }
  }
}
