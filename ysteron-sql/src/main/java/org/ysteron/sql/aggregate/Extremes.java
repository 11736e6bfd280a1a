package org.ysteron.sql.aggregate;

import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;

/** MIN, MAX and single values, kept as one value for each group. For one thread. */
abstract class Extremes extends Accumulator {
  private final Aggregate.Function function;
  private long[] there = {};
  private int groups;

  Extremes(Aggregate call, Running running) {
    super(running);
    this.function = call.function();
  }

  public static Extremes of(Aggregate call, Type type, Running running) {
    return switch (Held.form(type)) {
      case LONGS -> new OfLongs(call, type, running);
      case DOUBLES -> new OfDoubles(call, type, running);
      case BYTES -> new OfBytes(call, type, running);
      case NESTED -> new OfNested(call, type, running);
    };
  }

  /** How the value of a row compares with that of its group. */
  abstract int compare(int group, int row, Held value);

  abstract void set(int group, int row, Held value);

  /** Makes room for values; returns how many bytes more each takes. */
  abstract int longer(int length);

  @Override
  public void room(int least) {
    if (least > groups) {
      int more = longer(groups, least);
      running.take((long) longer(more) * (more - groups));
      there = Arrays.copyOf(there, (more + 63) >> 6);
      groups = more;
    }
  }

  @Override
  public void add(int[] of, int[] rows, int count, Held[] values) {
    Held value = values[0];
    for (int i = 0; i < count; i++) {
      int group = of[i];
      int row = rows[i];
      boolean isNull = value.isNull(row);
      boolean has = (there[group >> 6] & (1L << group)) != 0;
      if (function == Aggregate.Function.ONLY_VALUE) {
        if (has) {
          throw new InvalidInputException(
              "A subquery that stands for one value has more than one row.");
        }
        there[group >> 6] |= 1L << group;
        if (isNull) {
          none(group);
        } else {
          set(group, row, value);
        }
      } else if (!isNull && (!has || isBetter(group, row, value))) {
        there[group >> 6] |= 1L << group;
        set(group, row, value);
      }
    }
  }

  @Override
  public void merge(Accumulator other, int[] of, int from, int count) {
    Vector values = other.results(from, count);
    Schema columns = Schema.of(Field.of("c0", values.type()));
    Computation column = running.computation(new Column("c0"), columns);
    Batch batch = new Batch(columns.struct(), count, List.of(values));
    add(of, Selected.upTo(count), count, new Held[] {column.held(batch, null, count)});
  }

  private boolean isBetter(int group, int row, Held value) {
    return switch (function) {
      case MIN -> compare(group, row, value) < 0;
      case MAX -> compare(group, row, value) > 0;
      default -> false;
    };
  }

  private long[] nullValues = {};

  /** The group has a row, and its value is null. */
  private void none(int group) {
    if (nullValues.length <= group >> 6) {
      nullValues = Arrays.copyOf(nullValues, (group >> 6) + 1);
    }
    nullValues[group >> 6] |= 1L << group;
  }

  /** The bits of the groups without a value. */
  final long[] nulls(int from, int count) {
    return Made.nullBits(count, i -> isNull(from + i));
  }

  private boolean isNull(int group) {
    int word = group >> 6;
    long bit = 1L << group;
    return (there[word] & bit) == 0 || (nullValues.length > word && (nullValues[word] & bit) != 0);
  }

  private static final class OfLongs extends Extremes {
    private final Type type;
    private final boolean wide;
    private long[] lows = {};
    private long[] highs = {};

    OfLongs(Aggregate call, Type type, Running running) {
      super(call, running);
      this.type = type;
      this.wide = type instanceof Type.Decimal decimal && !decimal.isShort();
    }

    @Override
    int longer(int length) {
      lows = Arrays.copyOf(lows, length);
      highs = wide ? Arrays.copyOf(highs, length) : highs;
      return wide ? 16 : 8;
    }

    private static long high(int row, Held value) {
      return value.highs() == null ? value.longs()[row] >> 63 : value.highs()[row];
    }

    @Override
    int compare(int group, int row, Held value) {
      long low = value.longs()[row];
      if (!wide) {
        return Long.compare(low, lows[group]);
      }
      int order = Long.compare(high(row, value), highs[group]);
      return order != 0 ? order : Long.compareUnsigned(low, lows[group]);
    }

    @Override
    void set(int group, int row, Held value) {
      lows[group] = value.longs()[row];
      if (wide) {
        highs[group] = high(row, value);
      }
    }

    @Override
    public Vector results(int from, int count) {
      return Made.vector(
          type,
          count,
          Arrays.copyOfRange(lows, from, from + count),
          wide ? Arrays.copyOfRange(highs, from, from + count) : null,
          nulls(from, count));
    }
  }

  private static final class OfDoubles extends Extremes {
    private final Type type;
    private double[] values = {};

    OfDoubles(Aggregate call, Type type, Running running) {
      super(call, running);
      this.type = type;
    }

    @Override
    int longer(int length) {
      values = Arrays.copyOf(values, length);
      return 8;
    }

    /** NaN is greater than all, and 0.0 equal to -0.0. */
    @Override
    int compare(int group, int row, Held value) {
      return Double.compare(value.doubles()[row] + 0.0, values[group] + 0.0);
    }

    @Override
    void set(int group, int row, Held value) {
      values[group] = value.doubles()[row];
    }

    @Override
    public Vector results(int from, int count) {
      if (type == Types.REAL) {
        float[] floats = new float[count];
        for (int i = 0; i < count; i++) {
          floats[i] = (float) values[from + i];
        }
        return new Vector.OfFloat(type, count, floats, nulls(from, count));
      }
      return new Vector.OfDouble(
          type, count, Arrays.copyOfRange(values, from, from + count), nulls(from, count));
    }
  }

  private static final class OfBytes extends Extremes {
    private final Type type;
    private byte[][] values = {};

    OfBytes(Aggregate call, Type type, Running running) {
      super(call, running);
      this.type = type;
    }

    @Override
    int longer(int length) {
      values = Arrays.copyOf(values, length);
      return 32;
    }

    @Override
    int compare(int group, int row, Held value) {
      byte[] now = values[group];
      int start = value.starts()[row];
      return Arrays.compareUnsigned(
          value.data(), start, start + value.lengths()[row], now, 0, now.length);
    }

    @Override
    void set(int group, int row, Held value) {
      int start = value.starts()[row];
      int length = value.lengths()[row];
      running.take(length - (values[group] == null ? 0 : values[group].length));
      values[group] = Arrays.copyOfRange(value.data(), start, start + length);
    }

    @Override
    public Vector results(int from, int count) {
      long[] nulls = nulls(from, count);
      VectorBuilder builder = new VectorBuilder(type, count);
      for (int i = 0; i < count; i++) {
        if (nulls != null && (nulls[i >> 6] & (1L << i)) != 0) {
          builder.addNull();
        } else {
          byte[] value = values[from + i];
          builder.addBytes(value, 0, value.length);
        }
      }
      return builder.buildLast();
    }
  }

  private static final class OfNested extends Extremes {
    private final Type type;
    private Object[] values = {};

    OfNested(Aggregate call, Type type, Running running) {
      super(call, running);
      this.type = type;
      if (call.function() == Aggregate.Function.MIN || call.function() == Aggregate.Function.MAX) {
        throw new InvalidInputException("Values of %s have no order.".formatted(type));
      }
    }

    @Override
    int longer(int length) {
      values = Arrays.copyOf(values, length);
      return 64;
    }

    @Override
    int compare(int group, int row, Held value) {
      throw new IllegalStateException("values of " + type + " have no order");
    }

    @Override
    void set(int group, int row, Held value) {
      values[group] = value.nested().get(row);
    }

    @Override
    public Vector results(int from, int count) {
      long[] nulls = nulls(from, count);
      VectorBuilder builder = new VectorBuilder(type, count);
      for (int i = 0; i < count; i++) {
        boolean isNull = nulls != null && (nulls[i >> 6] & (1L << i)) != 0;
        builder.add(isNull ? null : values[from + i]);
      }
      return builder.buildLast();
    }
  }
}
