package org.ysteron.internal.layout;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.Widening;
import org.ysteron.internal.filter.Grouping;
import org.ysteron.internal.filter.Ordered;

/**
 * A partition rule on a column of some type: gives each value its part, a whole number. A value
 * keeps its part when the column becomes wider, because ranges go by the value itself, and lists
 * and hashes by its canonical form ({@code docs/format.md}, "Layouts"). Immutable, thread-safe.
 */
public abstract class Partitioner implements Grouping {
  static final long MICROS_A_MINUTE = 60_000_000L;
  static final long MICROS_A_DAY = 1440 * MICROS_A_MINUTE;

  private final int fieldId;
  private final int partId;
  final Type type;

  Partitioner(int fieldId, int partId, Type type) {
    this.fieldId = fieldId;
    this.partId = partId;
    this.type = type;
  }

  @Override
  public final int fieldId() {
    return fieldId;
  }

  @Override
  public final int partId() {
    return partId;
  }

  /** The part of a value that is not null. */
  public final long part(Vector vector, int row) {
    return vector instanceof Vector.OfBytes bytes
        ? part(
            Arrays.copyOfRange(
                bytes.data(), bytes.starts()[row], bytes.starts()[row] + bytes.lengths()[row]))
        : part(Ordered.number(vector, row));
  }

  abstract long part(long held);

  abstract long part(byte[] bytes);

  /** For people: what values are in a part; empty when only the values themselves tell. */
  public abstract Optional<String> show(long part);

  /** Ranges between bounds. */
  static final class Bounds extends Partitioner {
    private final PartitionRule.At rule;
    private final long[] numbers;
    private final byte[][] bytes;

    Bounds(PartitionRule.At rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
      this.rule = rule;
      List<Object> bounds =
          rule.bounds().stream().map(v -> Widening.value(v, rule.type(), type)).toList();
      boolean asBytes = Ordered.isBytes(type);
      this.numbers =
          asBytes ? null : bounds.stream().mapToLong(v -> Ordered.ofValue(v, type)).toArray();
      this.bytes =
          asBytes ? bounds.stream().map(v -> Values.toBytes(v, type)).toArray(byte[][]::new) : null;
    }

    @Override
    long part(long held) {
      int at = Arrays.binarySearch(numbers, held);
      return at >= 0 ? at + 1L : -at - 1L;
    }

    @Override
    long part(byte[] value) {
      int at = Arrays.binarySearch(bytes, value, Ordered::compare);
      return at >= 0 ? at + 1L : -at - 1L;
    }

    @Override
    public Optional<Span> parts(long low, long high) {
      return Optional.of(new Span(part(low), part(high)));
    }

    @Override
    public Optional<Span> parts(byte[] low, byte[] high) {
      return Optional.of(new Span(part(low), high == null ? bytes.length : part(high)));
    }

    @Override
    public Optional<String> show(long part) {
      return Optional.of(shown((int) part));
    }

    private String shown(int at) {
      if (at == 0) {
        return "below " + rule.bounds().get(0);
      }
      String from = "from " + rule.bounds().get(at - 1);
      return at == rule.bounds().size() ? from : from + " to before " + rule.bounds().get(at);
    }
  }
}
