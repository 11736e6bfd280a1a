package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Column;
import org.ysteron.internal.bytes.Wide;
import org.ysteron.internal.rows.FieldPath;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.internal.typing.Typed;

/** Columns and constants. */
final class Leaves {
  private Leaves() {}

  /** A column of the batch, found by the ids along its path. */
  static final class OfColumn extends Kernel {
    private final List<Field> along;
    private final boolean ofSource;
    private final Wide scratch = new Wide();

    OfColumn(Typed.OfColumn column) {
      super(column.type());
      this.along = column.along();
      this.ofSource = column.input() == Column.Input.SOURCE;
    }

    @Override
    public Held eval(Rows rows) {
      Optional<Batch> batch = ofSource ? rows.source() : rows.table();
      if (batch.isEmpty()) {
        out.begin(rows.size(), Held.form(type));
        out.allNull();
        return out;
      }
      Vector vector =
          FieldPath.in(
              batch.get(),
              along,
              (step, field) ->
                  ofSource ? field.name().equals(step.name()) : field.id() == step.id());
      return out.of(vector, scratch);
    }
  }

  /** The same value in every row. */
  static final class OfConstant extends Kernel {
    private final Object value;
    private int filled;

    OfConstant(Typed.Constant constant) {
      super(constant.type());
      this.value = constant.value();
    }

    @Override
    public Held eval(Rows rows) {
      int size = rows.size();
      if (filled >= size && filled > 0) {
        out.size = size;
        return out;
      }
      out.begin(size, Held.form(type));
      if (value == null) {
        out.allNull();
        if (type.isNested()) {
          out.vector = nulls(size);
        }
      } else {
        fill(size);
      }
      filled = size;
      return out;
    }

    private Vector nulls(int size) {
      VectorBuilder builder = new VectorBuilder(type, Math.max(1, size));
      for (int i = 0; i < size; i++) {
        builder.addNull();
      }
      return builder.buildLast();
    }

    private void fill(int size) {
      switch (Held.form(type)) {
        case LONGS -> {
          if (value instanceof Number number && Numbers.isExact(type)) {
            Wide wide = new Wide();
            BigDecimal exact = new BigDecimal(number.toString());
            wide.set(exact.setScale(Numbers.scale(type)).unscaledValue());
            Arrays.fill(out.longs, 0, size, wide.low);
            if (!wide.isShort()) {
              out.widen();
              Arrays.fill(out.highs, 0, size, wide.high);
            }
          } else {
            Arrays.fill(out.longs, 0, size, Values.toLong(value, type));
          }
        }
        case DOUBLES -> Arrays.fill(out.doubles, 0, size, ((Number) value).doubleValue());
        case BYTES -> {
          byte[] bytes = Values.toBytes(value, type);
          int at = out.room(bytes.length);
          System.arraycopy(bytes, 0, out.data, at, bytes.length);
          Arrays.fill(out.starts, 0, size, at);
          Arrays.fill(out.lengths, 0, size, bytes.length);
        }
        case NESTED -> {
          VectorBuilder builder = new VectorBuilder(type);
          for (int i = 0; i < size; i++) {
            builder.add(value);
          }
          out.vector = builder.buildLast();
        }
      }
    }
  }
}
