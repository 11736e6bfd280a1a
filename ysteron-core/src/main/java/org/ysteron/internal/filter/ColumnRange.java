package org.ysteron.internal.filter;

import java.util.Arrays;
import java.util.Objects;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.report.ValueRange;

/**
 * What is known of a column's values in a file, a page or a subtree: how many are null, and bounds
 * in the domain of {@link Ordered}. Immutable.
 */
public final class ColumnRange {

  /** How much is known. */
  public enum State {
    /** Nothing: any value may be there. */
    UNKNOWN,
    /** The rows are older than the column: its default at that time counts. */
    ABSENT,
    /** Every value is null. */
    ALL_NULL,
    /** Bounds are known. */
    BOUNDED
  }

  public static final ColumnRange UNKNOWN =
      new ColumnRange(State.UNKNOWN, false, null, -1, 0, 0, null, null);
  public static final ColumnRange ABSENT =
      new ColumnRange(State.ABSENT, true, null, 0, 0, 0, null, null);

  private final State state;
  private final boolean someAbsent;
  private final Type type;
  private final long nulls;
  private final long min;
  private final long max;
  private final byte[] minBytes;
  private final byte[] maxBytes;

  private ColumnRange(
      State state,
      boolean someAbsent,
      Type type,
      long nulls,
      long min,
      long max,
      byte[] minBytes,
      byte[] maxBytes) {
    this.state = state;
    this.someAbsent = someAbsent;
    this.type = type;
    this.nulls = nulls;
    this.min = min;
    this.max = max;
    this.minBytes = minBytes;
    this.maxBytes = maxBytes;
  }

  public static ColumnRange allNull(Type type, long nulls) {
    return new ColumnRange(State.ALL_NULL, false, type, nulls, 0, 0, null, null);
  }

  /** Bounds of a type that compares as whole numbers, both included. */
  public static ColumnRange of(Type type, long nulls, long min, long max) {
    return new ColumnRange(State.BOUNDED, false, type, nulls, min, max, null, null);
  }

  /**
   * Bounds of a type that compares as bytes.
   *
   * @param min a lower bound, not always a value itself
   * @param max an upper bound, or null when there is none
   */
  public static ColumnRange of(Type type, long nulls, byte[] min, byte[] max) {
    return new ColumnRange(State.BOUNDED, false, type, nulls, 0, 0, min, max);
  }

  /** The range of one value that is in every row. */
  public static ColumnRange ofValue(Type type, Object value) {
    if (value == null) {
      return allNull(type, -1);
    }
    if (Ordered.isBytes(type)) {
      byte[] bytes = Values.toBytes(value, type);
      return of(type, 0, bytes, bytes);
    }
    long held = Ordered.ofValue(value, type);
    return of(type, 0, held, held);
  }

  public State state() {
    return state;
  }

  public Type type() {
    return type;
  }

  /** How many values are null, or -1 when that is not known. */
  public long nulls() {
    return nulls;
  }

  public long min() {
    return min;
  }

  public long max() {
    return max;
  }

  @SuppressWarnings("EI_EXPOSE_REP")
  public byte[] minBytes() {
    return minBytes;
  }

  /** The upper bound, or null when there is none. */
  public byte[] maxBytes() {
    return maxBytes;
  }

  /** The range of the rows of both. */
  public ColumnRange unite(ColumnRange other) {
    if (state == State.UNKNOWN || other.state == State.UNKNOWN) {
      return UNKNOWN;
    }
    if (state == State.ABSENT || other.state == State.ABSENT) {
      return state == State.ABSENT ? other.orAbsent() : orAbsent();
    }
    if (someAbsent != other.someAbsent) {
      return orAbsent().unite(other.orAbsent());
    }
    long allNulls = nulls < 0 || other.nulls < 0 ? -1 : nulls + other.nulls;
    if (!type.equals(other.type)) {
      ColumnRange mine = widen(other.type);
      ColumnRange theirs = other.widen(type);
      if (mine.state != State.UNKNOWN) {
        return mine.unite(other);
      }
      return theirs.state != State.UNKNOWN ? unite(theirs) : UNKNOWN;
    }
    if (state == State.ALL_NULL || other.state == State.ALL_NULL) {
      ColumnRange bounds = state == State.ALL_NULL ? other : this;
      return bounds.with(allNulls, someAbsent);
    }
    if (Ordered.isBytes(type)) {
      byte[] low = Ordered.compare(minBytes, other.minBytes) <= 0 ? minBytes : other.minBytes;
      byte[] high = null;
      if (maxBytes != null && other.maxBytes != null) {
        high = Ordered.compare(maxBytes, other.maxBytes) >= 0 ? maxBytes : other.maxBytes;
      }
      return of(type, allNulls, low, high).with(allNulls, someAbsent);
    }
    return of(type, allNulls, Math.min(min, other.min), Math.max(max, other.max))
        .with(allNulls, someAbsent);
  }

  private ColumnRange with(long newNulls, boolean absent) {
    return new ColumnRange(state, absent, type, newNulls, min, max, minBytes, maxBytes);
  }

  /** This range for rows of which some more may be null. */
  public ColumnRange orSomeNulls() {
    return state == State.BOUNDED ? with(-1, someAbsent) : this;
  }

  /** This range with another count of nulls. */
  public ColumnRange withNulls(long newNulls) {
    return with(newNulls, someAbsent);
  }

  /** This range for rows some of which may be older than the column. */
  public ColumnRange orAbsent() {
    return state == State.UNKNOWN || someAbsent ? this : with(nulls, true);
  }

  /**
   * Whether the bounds are values, and not only around them: those of whole numbers are, which were
   * never cut; among approximate numbers there may be some that are none.
   */
  public boolean isExact() {
    boolean isWhole =
        state == State.BOUNDED
            && minBytes == null
            && maxBytes == null
            && (type.physical() == Type.Physical.INT || type.physical() == Type.Physical.LONG);
    return nulls >= 0 && !someAbsent && (state == State.ALL_NULL || isWhole);
  }

  /** Whether some of the rows may be older than the column, so that its default counts, too. */
  public boolean someAbsent() {
    return someAbsent;
  }

  /** This range with the default of rows older than the column in it. */
  public ColumnRange withDefault(Type columnType, Object value) {
    if (!someAbsent) {
      return widen(columnType);
    }
    ColumnRange ofDefault = ofValue(columnType, value);
    return state == State.ABSENT
        ? ofDefault
        : with(nulls, false).widen(columnType).unite(ofDefault);
  }

  /** This range as one of a wider type; {@link #UNKNOWN} when the bounds cannot be converted. */
  public ColumnRange widen(Type to) {
    if (state == State.UNKNOWN || state == State.ABSENT || type.equals(to)) {
      return this;
    }
    boolean text = type instanceof Type.Text && to instanceof Type.Text;
    boolean whole =
        (type == Types.INTEGER && to == Types.BIGINT) || (type == Types.REAL && to == Types.DOUBLE);
    if (text || whole) {
      return new ColumnRange(state, someAbsent, to, nulls, min, max, minBytes, maxBytes);
    }
    if (state == State.ALL_NULL) {
      return allNull(to, nulls).with(nulls, someAbsent);
    }
    return RangeWidening.of(this, to).keepAbsent(someAbsent);
  }

  private ColumnRange keepAbsent(boolean absent) {
    return absent ? orAbsent() : this;
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof ColumnRange range
        && state == range.state
        && someAbsent == range.someAbsent
        && nulls == range.nulls
        && min == range.min
        && max == range.max
        && Objects.equals(type, range.type)
        && Arrays.equals(minBytes, range.minBytes)
        && Arrays.equals(maxBytes, range.maxBytes);
  }

  @Override
  public int hashCode() {
    return Objects.hash(state, type, nulls, min, max);
  }

  /** For people: {@code [1, 5] 2 nulls}. */
  @Override
  public String toString() {
    String bounds =
        switch (state) {
          case UNKNOWN -> "unknown";
          case ABSENT -> "absent";
          case ALL_NULL -> "all null";
          case BOUNDED -> "[" + show(true) + ", " + show(false) + "]";
        };
    return nulls > 0 ? bounds + " " + nulls + (nulls == 1 ? " null" : " nulls") : bounds;
  }

  private String show(boolean low) {
    Optional<Object> bound = bound(low);
    if (bound.isEmpty()) {
      return "…";
    }
    boolean asIs = !Ordered.isBytes(type) || bound.get() instanceof String;
    return asIs ? bound.get().toString() : Values.show(bound.get());
  }

  private Optional<Object> bound(boolean low) {
    if (Ordered.isFloating(type)) {
      return Optional.of(Ordered.toDouble(low ? min : max));
    }
    if (!Ordered.isBytes(type)) {
      return Optional.of(Values.fromLong(low ? min : max, type));
    }
    byte[] bytes = low ? minBytes : maxBytes;
    return bytes == null
        ? Optional.empty()
        : Optional.of(Values.fromBytes(bytes, 0, bytes.length, type));
  }

  /** What a caller is told of it. */
  public ValueRange told() {
    boolean bounded = state == State.BOUNDED;
    return new ValueRange(
        bounded ? bound(true) : Optional.empty(),
        bounded ? bound(false) : Optional.empty(),
        nulls < 0 ? Optional.empty() : Optional.of(nulls),
        toString());
  }
}
