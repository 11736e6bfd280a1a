package org.ysteron.internal.layout;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.IntUnaryOperator;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.Widening;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.json.JsonObject;

/**
 * An order of rows in which those are near each other that are near in each of some columns: along
 * Hilbert's curve through a grid (Hilbert, Über die stetige Abbildung einer Linie auf ein
 * Flächenstück, 1891), computed as in Skilling, Programming the Hilbert curve, 2004. A column's
 * coordinate goes by quantiles of its values, so that skew does not matter, and evenly between two
 * of them; nulls have the last one.
 *
 * @param axes two to four columns, each with its quantiles, ascending, from the least value to the
 *     greatest; none when the table had no rows
 */
public record Curve(List<Axis> axes) {
  public static final int FEWEST = 2;
  public static final int MOST = 4;

  /**
   * A column's values are split at so many quantiles, beside the least one; every version's page
   * has them.
   */
  public static final int QUANTILES = 16;

  private static final int BITS = 10;
  private static final int SIDE = 1 << BITS;

  /** A place on the longest curve has so many bits. */
  public static final int PLACE_BITS = MOST * BITS;

  public Curve {
    axes = List.copyOf(axes);
  }

  /**
   * A column.
   *
   * @param type its type when the quantiles were found, which is theirs
   * @param quantiles ascending
   */
  public record Axis(int fieldId, Type type, List<Object> quantiles) {
    public Axis {
      quantiles = List.copyOf(quantiles);
    }

    /** This column with quantiles that were found. */
    public Axis at(List<Object> found) {
      return new Axis(fieldId, type, found);
    }

    Map<String, Object> toJson() {
      Map<String, Object> json = new LinkedHashMap<>();
      json.put("column", fieldId);
      json.put("of", type.toString());
      json.put("at", PartitionRule.writtenValues(quantiles, type));
      return json;
    }

    static Axis fromJson(JsonObject json) {
      Type type = Types.parse(json.text("of"));
      return new Axis((int) json.number("column"), type, json.values("at", type));
    }

    /** In the form that {@link org.ysteron.option.LayoutPlan#along} takes. */
    String text(Schema schema) {
      String name = PartitionRule.columnName(fieldId, schema);
      return quantiles.isEmpty()
          ? name
          : name + " at " + PartitionRule.joined(quantiles, fieldId, type, schema);
    }
  }

  Curve under(IntUnaryOperator ids) {
    return new Curve(
        axes.stream()
            .map(axis -> new Axis(ids.applyAsInt(axis.fieldId), axis.type, axis.quantiles))
            .toList());
  }

  static Curve fromJson(List<JsonObject> json) {
    if (json.size() < FEWEST || json.size() > MOST) {
      throw new DamagedException("A layout has a curve over " + json.size() + " columns.");
    }
    return new Curve(json.stream().map(Axis::fromJson).toList());
  }

  /** Whether all columns have quantiles; one without them does not count. */
  public boolean isPlaced() {
    return axes.stream().noneMatch(axis -> axis.quantiles.isEmpty());
  }

  /**
   * Places rows on the curve.
   *
   * @param types of the columns now
   */
  public Places places(List<Type> types) {
    List<Scale> scales = new ArrayList<>();
    for (int i = 0; i < axes.size(); i++) {
      scales.add(new Scale(axes.get(i), types.get(i)));
    }
    return new Places(scales);
  }

  /** Where rows are on a curve. Immutable. */
  public static final class Places {
    private final List<Scale> scales;

    private Places(List<Scale> scales) {
      this.scales = scales;
    }

    /** For each row of some vectors, one of each column, how far along the curve it is. */
    public long[] of(Vector[] vectors, int rows) {
      long[] places = new long[rows];
      int[] point = new int[scales.size()];
      for (int row = 0; row < rows; row++) {
        for (int i = 0; i < point.length; i++) {
          point[i] = vectors[i].isNull(row) ? SIDE - 1 : scales.get(i).coordinate(vectors[i], row);
        }
        places[row] = along(point);
      }
      return places;
    }
  }

  /** How far along the curve a point of the grid is; the point is used up. */
  static long along(int[] x) {
    int last = x.length - 1;
    for (int q = SIDE >> 1; q > 1; q >>= 1) {
      int p = q - 1;
      for (int i = 0; i <= last; i++) {
        if ((x[i] & q) != 0) {
          x[0] ^= p;
        } else {
          int t = (x[0] ^ x[i]) & p;
          x[0] ^= t;
          x[i] ^= t;
        }
      }
    }
    for (int i = 1; i <= last; i++) {
      x[i] ^= x[i - 1];
    }
    int turned = 0;
    for (int q = SIDE >> 1; q > 1; q >>= 1) {
      turned ^= (x[last] & q) != 0 ? q - 1 : 0;
    }
    long place = 0;
    for (int bit = BITS - 1; bit >= 0; bit--) {
      for (int i = 0; i <= last; i++) {
        place = (place << 1) | (((x[i] ^ turned) >> bit) & 1);
      }
    }
    return place;
  }

  /** A column's values as numbers, and its quantiles among them. */
  private static final class Scale {
    private final boolean asBytes;
    private final byte[] prefix;
    private final long[] marks;

    Scale(Axis axis, Type type) {
      List<Object> values =
          axis.quantiles.stream().map(v -> Widening.value(v, axis.type, type)).toList();
      asBytes = Ordered.isBytes(type);
      if (asBytes) {
        byte[][] bytes = values.stream().map(v -> Values.toBytes(v, type)).toArray(byte[][]::new);
        prefix = bytes.length == 0 ? new byte[0] : shared(bytes[0], bytes[bytes.length - 1]);
        marks = Arrays.stream(bytes).mapToLong(b -> number(b, 0, b.length)).distinct().toArray();
      } else {
        prefix = new byte[0];
        marks = values.stream().mapToLong(v -> Ordered.ofValue(v, type)).distinct().toArray();
      }
    }

    private static byte[] shared(byte[] least, byte[] greatest) {
      int end = Arrays.mismatch(least, greatest);
      return Arrays.copyOf(least, end < 0 ? least.length : end);
    }

    /** The eight bytes behind what all quantiles begin with, as a number that orders like them. */
    private long number(byte[] data, int start, int length) {
      int common = Math.min(length, prefix.length);
      int order = Arrays.compareUnsigned(data, start, start + common, prefix, 0, prefix.length);
      if (order != 0) {
        return order < 0 ? Long.MIN_VALUE : Long.MAX_VALUE;
      }
      long number = 0;
      for (int i = 0; i < Long.BYTES; i++) {
        int at = prefix.length + i;
        number = (number << 8) | (at < length ? data[start + at] & 0xff : 0);
      }
      return number ^ Long.MIN_VALUE;
    }

    int coordinate(Vector vector, int row) {
      if (marks.length < 2) {
        return 0;
      }
      long number;
      if (asBytes) {
        Vector.OfBytes bytes = (Vector.OfBytes) vector;
        number = number(bytes.data(), bytes.starts()[row], bytes.lengths()[row]);
      } else {
        number = Ordered.number(vector, row);
      }
      int found = Arrays.binarySearch(marks, number);
      int bucket = found >= 0 ? found : -found - 2;
      if (bucket < 0) {
        return 0;
      }
      double wide = (double) SIDE / (marks.length - 1);
      if (bucket >= marks.length - 1) {
        return SIDE - 1;
      }
      double share =
          ((double) number - marks[bucket]) / ((double) marks[bucket + 1] - marks[bucket]);
      return Math.min(SIDE - 1, (int) ((bucket + Math.min(share, 1)) * wide));
    }
  }
}
