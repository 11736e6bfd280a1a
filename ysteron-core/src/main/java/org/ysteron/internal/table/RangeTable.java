package org.ysteron.internal.table;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.tree.Sections;

/**
 * The column ranges of some files or subtrees, one section a column and type, so that a plan
 * decodes only those of the columns it tests. Immutable but for what it has decoded; thread-safe.
 */
final class RangeTable {
  static final RangeTable EMPTY = new RangeTable(0, Map.of());

  private static final int DIRECTORY = 20;
  private static final int FIRST = 100;
  private static final int MOST = 100_000;
  private static final int NONE = 0;
  private static final int UNKNOWN = 1;
  private static final int ALL_NULL = 2;
  private static final int BOUNDED = 3;
  private static final int SOME_ABSENT = 4;
  private static final double[] POWERS = {1, 10, 100, 1000, 10000};
  private static final int RAW = 0;
  private static final int MOST_KNOWN_TYPES = 500;
  private static final Map<String, Type> KNOWN_TYPES = new ConcurrentHashMap<>();

  private final int size;
  private final Map<Integer, List<Encoded>> parts = new LinkedHashMap<>();
  private final Map<Integer, ColumnRange[]> decoded;
  private final Sections page;
  private Set<Integer> fieldIds;

  private record Encoded(Type type, ByteIn bytes) {}

  private RangeTable(int size, Map<Integer, ColumnRange[]> decoded) {
    this(size, decoded, null);
  }

  private RangeTable(int size, Map<Integer, ColumnRange[]> decoded, Sections page) {
    this.page = page;
    this.size = size;
    this.decoded = decoded;
  }

  /** A table of one row. */
  static RangeTable of(Map<Integer, ColumnRange> ranges) {
    Map<Integer, ColumnRange[]> columns = new TreeMap<>();
    ranges.forEach((id, range) -> columns.put(id, new ColumnRange[] {range}));
    return new RangeTable(1, columns);
  }

  /** The fields of which anything is said; does not change. */
  synchronized Set<Integer> fieldIds() {
    if (fieldIds == null) {
      fieldIds = new LinkedHashSet<>(decoded.keySet());
      fieldIds.addAll(parts.keySet());
    }
    return fieldIds;
  }

  /** The fields of which any of some rows says anything, in order. */
  static Set<Integer> fieldIds(Iterable<RowOf> rows) {
    Set<Integer> ids = new TreeSet<>();
    RangeTable last = null;
    for (RowOf row : rows) {
      if (row.table != last && !ids.containsAll(row.table.fieldIds())) {
        ids.addAll(row.table.fieldIds());
      }
      last = row.table;
    }
    return ids;
  }

  /** The range of a field in a row, or null when nothing is said of it. */
  ColumnRange get(int row, int fieldId) {
    ColumnRange[] ranges = column(fieldId);
    return ranges == null ? null : ranges[row];
  }

  /** The ranges of a field in all rows, not to be written to; null when nothing is said of it. */
  private synchronized ColumnRange[] column(int fieldId) {
    ColumnRange[] ranges = decoded.get(fieldId);
    if (ranges == null) {
      List<Encoded> of = parts.get(fieldId);
      if (of == null) {
        return null;
      }
      ranges =
          page.guarded(
              () -> {
                ColumnRange[] read = new ColumnRange[size];
                of.forEach(part -> readPart(part, read));
                return read;
              });
      decoded.put(fieldId, ranges);
    }
    return ranges;
  }

  /** The ranges of a field in some rows; null where nothing is said of it. */
  static ColumnRange[] column(List<RowOf> rows, int fieldId) {
    ColumnRange[] ranges = new ColumnRange[rows.size()];
    RangeTable last = null;
    ColumnRange[] all = null;
    for (int i = 0; i < ranges.length; i++) {
      RowOf row = rows.get(i);
      if (row.table != last) {
        last = row.table;
        all = last.column(fieldId);
      }
      ranges[i] = all == null ? null : all[row.row];
    }
    return ranges;
  }

  /** A table of some rows of others, in their order. */
  static RangeTable gather(List<RowOf> rows) {
    Map<Integer, ColumnRange[]> columns = new HashMap<>();
    for (int id : fieldIds(rows)) {
      columns.put(id, column(rows, id));
    }
    return new RangeTable(rows.size(), columns);
  }

  /** One row of some table. */
  record RowOf(RangeTable table, int row) {
    ColumnRange get(int fieldId) {
      return table.get(row, fieldId);
    }

    /** All that is said, by field. */
    Map<Integer, ColumnRange> all() {
      Map<Integer, ColumnRange> all = new TreeMap<>();
      for (int id : table.fieldIds()) {
        ColumnRange range = get(id);
        if (range != null) {
          all.put(id, range);
        }
      }
      return all;
    }
  }

  static void write(List<RowOf> rows, Sections.Builder out) {
    Set<Integer> ids = fieldIds(rows);
    ByteOut directory = out.part(DIRECTORY);
    int number = FIRST;
    ByteOut list = new ByteOut();
    for (int id : ids) {
      ColumnRange[] ranges = column(rows, id);
      for (Type type : types(ranges)) {
        list.varint(id).text(type == null ? "" : type.toString());
        writePart(ranges, type, out.part(number++));
      }
    }
    directory.varint(number - FIRST).raw(list.toByteArray());
  }

  /** The types that occur; null stands for ranges that have none. */
  private static Collection<Type> types(ColumnRange[] ranges) {
    Set<Type> types = new LinkedHashSet<>();
    boolean untyped = false;
    Type last = null;
    for (ColumnRange range : ranges) {
      if (range == null) {
        continue;
      }
      Type type = range.type();
      if (type == null) {
        untyped = true;
      } else if (!type.equals(last)) {
        types.add(type);
        last = type;
      }
    }
    return untyped && types.isEmpty() ? Collections.singletonList(null) : types;
  }

  private static void writePart(ColumnRange[] ranges, Type type, ByteOut out) {
    int count = ranges.length;
    long[] states = new long[count];
    long[] nulls = new long[count];
    List<ColumnRange> bounded = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      ColumnRange range = ranges[i];
      states[i] = range == null ? NONE : state(range, type);
      if (states[i] != NONE) {
        nulls[i] = range.nulls() + 1;
      }
      if ((states[i] & BOUNDED) == BOUNDED) {
        bounded.add(range);
      }
    }
    out.packed(states, count).packed(nulls, count);
    if (bounded.isEmpty()) {
      return;
    }
    if (Ordered.isBytes(type)) {
      writeBytes(bounded, out);
    } else {
      writeNumbers(bounded, type, out);
    }
  }

  private static int state(ColumnRange range, Type type) {
    if (range.type() != null && !range.type().equals(type)) {
      return NONE;
    }
    int absent = range.someAbsent() ? SOME_ABSENT : 0;
    return switch (range.state()) {
      case ABSENT -> SOME_ABSENT;
      case UNKNOWN -> UNKNOWN;
      case ALL_NULL -> ALL_NULL | absent;
      case BOUNDED -> BOUNDED | absent;
    };
  }

  private static void writeBytes(List<ColumnRange> bounded, ByteOut out) {
    ByteOut plain = new ByteOut();
    for (ColumnRange range : bounded) {
      plain.sized(range.minBytes());
      byte[] max = range.maxBytes();
      plain.varint(max == null ? 0 : max.length + 1);
      if (max != null) {
        plain.raw(max);
      }
    }
    out.zstd(plain.toByteArray());
  }

  private static void writeNumbers(List<ColumnRange> bounded, Type type, ByteOut out) {
    int count = bounded.size();
    int scale = Ordered.isFloating(type) ? decimalScale(bounded) : -1;
    out.u8(scale < 0 ? RAW : scale + 1);
    long[] mins = new long[count];
    long[] spans = new long[count];
    for (int i = 0; i < count; i++) {
      ColumnRange range = bounded.get(i);
      mins[i] = scale < 0 ? range.min() : scaled(range.min(), scale);
      spans[i] = (scale < 0 ? range.max() : scaled(range.max(), scale)) - mins[i];
    }
    out.packed(mins, count).packed(spans, count);
  }

  /** The least number of digits behind the point with which all bounds are exact, or -1. */
  private static int decimalScale(List<ColumnRange> bounded) {
    for (int scale = 0; scale < POWERS.length; scale++) {
      boolean exact = true;
      for (ColumnRange range : bounded) {
        exact = exact && isExact(range.min(), scale) && isExact(range.max(), scale);
      }
      if (exact) {
        return scale;
      }
    }
    return -1;
  }

  private static boolean isExact(long ordered, int scale) {
    double value = Ordered.toDouble(ordered);
    if (!(Math.abs(value) < 1e13)) {
      return false;
    }
    return Ordered.ofDouble(scaled(ordered, scale) / POWERS[scale]) == ordered;
  }

  private static long scaled(long ordered, int scale) {
    return Math.round(Ordered.toDouble(ordered) * POWERS[scale]);
  }

  static RangeTable read(int size, Sections in) {
    RangeTable table = new RangeTable(size, new HashMap<>(), in);
    ByteIn directory = in.part(DIRECTORY);
    int count = directory.bounded(Math.min(MOST, directory.remaining()));
    for (int i = 0; i < count; i++) {
      int id = directory.bounded(Integer.MAX_VALUE);
      String name = directory.text();
      Type type = name.isEmpty() ? null : type(name);
      table
          .parts
          .computeIfAbsent(id, key -> new ArrayList<>())
          .add(new Encoded(type, in.part(FIRST + i)));
    }
    return table;
  }

  /** Many pages name the same few types. */
  private static Type type(String name) {
    Type known = KNOWN_TYPES.get(name);
    if (known == null) {
      known = Types.parse(name);
      if (KNOWN_TYPES.size() < MOST_KNOWN_TYPES) {
        KNOWN_TYPES.put(name, known);
      }
    }
    return known;
  }

  private static void readPart(Encoded part, ColumnRange[] ranges) {
    ByteIn in = part.bytes.copy();
    int count = ranges.length;
    long[] states = in.packed(count);
    long[] nulls = in.packed(count);
    int bounded = 0;
    for (long state : states) {
      bounded += (state & BOUNDED) == BOUNDED ? 1 : 0;
    }
    if (bounded > 0 && part.type == null) {
      throw new DamagedException("A page has bounds of no type.");
    }
    ColumnRange[] bounds = bounded == 0 ? new ColumnRange[0] : readBounds(part.type, in, bounded);
    int next = 0;
    for (int i = 0; i < count; i++) {
      ColumnRange range;
      switch ((int) states[i] & BOUNDED) {
        case BOUNDED -> range = bounds[next++].withNulls(nulls[i] - 1);
        case ALL_NULL -> range = ColumnRange.allNull(part.type, nulls[i] - 1);
        case UNKNOWN -> range = ColumnRange.UNKNOWN;
        default -> range = states[i] == SOME_ABSENT ? ColumnRange.ABSENT : null;
      }
      if (range != null) {
        ranges[i] = (states[i] & SOME_ABSENT) != 0 ? range.orAbsent() : range;
      }
    }
  }

  private static ColumnRange[] readBounds(Type type, ByteIn in, int count) {
    ColumnRange[] bounds = new ColumnRange[count];
    if (Ordered.isBytes(type)) {
      ByteIn plain = new ByteIn(in.zstd());
      for (int i = 0; i < count; i++) {
        byte[] min = plain.sized();
        int length = plain.bounded(MOST) - 1;
        bounds[i] = ColumnRange.of(type, 0, min, length < 0 ? null : plain.raw(length));
      }
      return bounds;
    }
    int scale = in.u8() - 1;
    if (scale >= POWERS.length) {
      throw new DamagedException("A page scales its bounds by the unknown power " + scale + ".");
    }
    long[] mins = in.packed(count);
    long[] spans = in.packed(count);
    for (int i = 0; i < count; i++) {
      long min = mins[i];
      long max = min + spans[i];
      bounds[i] =
          scale < 0
              ? ColumnRange.of(type, 0, min, max)
              : ColumnRange.of(
                  type,
                  0,
                  Ordered.ofDouble(min / POWERS[scale]),
                  Ordered.ofDouble(max / POWERS[scale]));
    }
    return bounds;
  }
}
