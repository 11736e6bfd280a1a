package org.ysteron.internal.keys;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Ordered;

/**
 * What the values of key columns have in common, as a condition by which files, row groups and
 * pages can be skipped: the values themselves while they are few, else between which they lie.
 */
public final class KeyRanges {
  private static final int FEW = 20_000;

  private final List<Column> columns = new ArrayList<>();
  private final int most;

  public KeyRanges(List<Field> key) {
    this(key, FEW);
  }

  /** {@code most}: so many values of a column are told one by one. */
  public KeyRanges(List<Field> key, int most) {
    this.most = most;
    key.forEach(field -> columns.add(new Column(field)));
  }

  /** Adds one value of a column; only when there are too many to be told one by one. */
  public void add(int column, Vector vector, int row) {
    columns.get(column).few = null;
    columns.get(column).add(vector, row);
  }

  public void add(Vector[] key, int row) {
    for (int c = 0; c < columns.size(); c++) {
      columns.get(c).add(key[c], row);
    }
  }

  /** Whether no key was added. */
  boolean isEmpty() {
    return columns.stream().allMatch(Column::isEmpty);
  }

  /** Passed by every row whose key was added; by the names that the columns have in a schema. */
  public Condition condition(Schema schema) {
    Condition all = Condition.all();
    for (Column column : columns) {
      all = all.and(column.condition(schema.field(column.field.id()).orElseThrow().name()));
    }
    return all.simplified();
  }

  private final class Column {
    private final Field field;
    private Set<Object> few = new LinkedHashSet<>();
    private long min = Long.MAX_VALUE;
    private long max = Long.MIN_VALUE;
    private byte[] minBytes;
    private byte[] maxBytes;

    Column(Field field) {
      this.field = field;
    }

    boolean isEmpty() {
      return few != null && few.isEmpty();
    }

    void add(Vector vector, int row) {
      if (few != null) {
        few.add(vector.present(row));
        few = few.size() > most ? null : few;
      }
      if (vector instanceof Vector.OfBytes bytes) {
        add(bytes.data(), bytes.starts()[row], bytes.starts()[row] + bytes.lengths()[row]);
        return;
      }
      long value = Ordered.number(vector, row);
      min = Math.min(min, value);
      max = Math.max(max, value);
    }

    private void add(byte[] data, int from, int to) {
      if (minBytes == null
          || Arrays.compareUnsigned(data, from, to, minBytes, 0, minBytes.length) < 0) {
        minBytes = Arrays.copyOfRange(data, from, to);
      }
      if (maxBytes == null
          || Arrays.compareUnsigned(data, from, to, maxBytes, 0, maxBytes.length) > 0) {
        maxBytes = Arrays.copyOfRange(data, from, to);
      }
    }

    Condition condition(String name) {
      org.ysteron.expr.Column column = Condition.column(Schema.path(List.of(name)));
      Type type = field.type();
      if (few != null) {
        return column.in(few);
      }
      if (type.physical() == Type.Physical.BYTES) {
        // Wide decimals are held with a sign bit that does not compare as bytes.
        return type instanceof Type.Decimal
            ? Condition.all()
            : column.between(value(minBytes, type), value(maxBytes, type));
      }
      return column.between(value(min, type), value(max, type));
    }

    private static Object value(byte[] bytes, Type type) {
      return Values.fromBytes(bytes, 0, bytes.length, type);
    }

    private static Object value(long held, Type type) {
      if (type == Types.BOOLEAN) {
        return held != 0;
      }
      return Ordered.isFloating(type) ? Ordered.toDouble(held) : Values.fromLong(held, type);
    }
  }
}
