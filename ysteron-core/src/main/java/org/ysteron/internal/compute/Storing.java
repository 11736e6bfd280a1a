package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.typing.Numbers;

/**
 * Values as a column takes them: exact numbers must keep all their digits, text must not be too
 * long; an approximate column takes the nearest number of an exact one.
 */
final class Storing {
  private Storing() {}

  static Kernel of(Kernel from, Type to) {
    boolean exact = Numbers.isExact(from.type);
    if (exact && Numbers.isExact(to)) {
      return new ExactRounding(from, null, ExactRounding.Way.EXACT, to);
    }
    if (exact || to == Types.DOUBLE || to == Types.TIMESTAMP) {
      return CastKernels.of(from, to);
    }
    return to.isNested() ? new Nested(from, to) : new Accepted(from, to);
  }

  /** Nested values, which are held alike. */
  private static final class Nested extends Kernel {
    private final Kernel of;
    private final Wide scratch = new Wide();

    Nested(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      VectorBuilder values = new VectorBuilder(type, rows.size());
      for (int i = 0; i < rows.size(); i++) {
        values.add(from.isNull(i) ? null : from.vector.present(i));
      }
      return out.of(values.buildLast(), scratch);
    }
  }

  /** Values that are looked at one by one. */
  private static final class Accepted extends Kernel {
    private final Kernel of;
    private final Wide number = new Wide();

    Accepted(Kernel of, Type to) {
      super(to);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      if (type.equals(Types.text())) {
        return from;
      }
      Held.Form form = Held.form(type);
      out.begin(rows, form, from);
      if (form == Held.Form.BYTES) {
        out.share(from);
      }
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (out.isNull(i)) {
          continue;
        }
        Object value = accepted(from, i);
        switch (form) {
          case BYTES -> {
            out.starts[i] = from.starts[i];
            out.lengths[i] = from.lengths[i];
          }
          case DOUBLES -> out.doubles[i] = ((Number) value).doubleValue();
          default -> {
            number.set(new BigDecimal(value.toString()).unscaledValue());
            out.set(i, number);
          }
        }
      }
      return out;
    }

    private Object accepted(Held from, int row) {
      Optional<Object> value = from.value(row, of.type);
      try {
        Object given = value.orElseThrow();
        boolean finite = given instanceof Number n && Double.isFinite(n.doubleValue());
        return Values.accept(
            finite && Numbers.isExact(type) ? Decimals.of((Number) given) : given, type);
      } catch (InvalidInputException e) {
        throw failure(row, e.getMessage());
      }
    }
  }
}
