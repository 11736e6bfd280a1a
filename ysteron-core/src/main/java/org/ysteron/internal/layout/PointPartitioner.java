package org.ysteron.internal.layout;

import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import net.openhft.hashing.LongHashFunction;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.internal.filter.Ordered;

/** Lists and hashes, which know single values only. */
abstract class PointPartitioner extends Partitioner {
  private static final LongHashFunction XX = LongHashFunction.xx();

  PointPartitioner(int fieldId, int partId, Type type) {
    super(fieldId, partId, type);
  }

  final long canonicalOf(Object value) {
    return Ordered.isBytes(type)
        ? canonical(Values.toBytes(value, type))
        : canonical(Ordered.ofValue(value, type));
  }

  @Override
  long part(long held) {
    return ofCanonical(canonical(held));
  }

  @Override
  long part(byte[] bytes) {
    return ofCanonical(canonical(bytes));
  }

  /** The part of a value by its canonical form. */
  abstract long ofCanonical(long canonical);

  /** Whole numbers, also as decimals and doubles, are themselves; other numbers a hash. */
  private long canonical(long held) {
    if (Ordered.isFloating(type)) {
      double value = Ordered.toDouble(held);
      boolean whole = value == Math.rint(value) && Math.abs(value) < 1L << 53;
      return whole ? (long) value : hash(Double.doubleToLongBits(value));
    }
    if (type instanceof Type.Decimal decimal) {
      return ofDecimal(BigDecimal.valueOf(held, decimal.scale()));
    }
    return type == Types.DATE ? held * MICROS_A_DAY : held;
  }

  private static long ofDecimal(BigDecimal value) {
    BigDecimal plain = value.signum() == 0 ? BigDecimal.ZERO : value.stripTrailingZeros();
    if (plain.scale() <= 0 && plain.toBigInteger().bitLength() < Long.SIZE) {
      return plain.longValueExact();
    }
    return XX.hashBytes(plain.toPlainString().getBytes(java.nio.charset.StandardCharsets.US_ASCII));
  }

  static long hash(long bits) {
    return XX.hashBytes(
        ByteBuffer.allocate(Long.BYTES).order(ByteOrder.LITTLE_ENDIAN).putLong(bits).array());
  }

  private long canonical(byte[] bytes) {
    return type instanceof Type.Decimal
        ? ofDecimal((BigDecimal) Values.fromBytes(bytes, 0, bytes.length, type))
        : XX.hashBytes(bytes);
  }

  @Override
  public Optional<Span> parts(long low, long high) {
    return low == high ? Optional.of(new Span(part(low), part(low))) : Optional.empty();
  }

  @Override
  public Optional<Span> parts(byte[] low, byte[] high) {
    boolean point =
        high != null
            && high.length == low.length + 1
            && high[low.length] == 0
            && Arrays.mismatch(low, high) == low.length;
    return point ? Optional.of(new Span(part(low), part(low))) : Optional.empty();
  }

  /** Each value by itself. */
  static final class Each extends PointPartitioner {
    Each(PartitionRule.EachValue rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
    }

    @Override
    long ofCanonical(long canonical) {
      return canonical;
    }

    @Override
    public Optional<String> show(long part) {
      return Optional.empty();
    }
  }

  /** Groups of values, and one of all others. */
  static final class Grouped extends PointPartitioner {
    private final PartitionRule.Groups rule;
    private final Map<Long, Long> groups = new HashMap<>();

    Grouped(PartitionRule.Groups rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
      this.rule = rule;
      for (int g = 0; g < rule.groups().size(); g++) {
        for (Object value : rule.groups().get(g)) {
          groups.put(canonicalOf(Widening.value(value, rule.type(), type)), (long) g);
        }
      }
    }

    @Override
    long ofCanonical(long canonical) {
      return groups.getOrDefault(canonical, (long) rule.groups().size());
    }

    @Override
    public Optional<String> show(long part) {
      return Optional.of(
          part < rule.groups().size() ? rule.groups().get((int) part).toString() : "others");
    }
  }

  /** So many parts by a hash. */
  static final class Hashed extends PointPartitioner {
    private final PartitionRule.Hash rule;

    Hashed(PartitionRule.Hash rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
      this.rule = rule;
    }

    @Override
    long ofCanonical(long canonical) {
      return Long.remainderUnsigned(hash(canonical), rule.parts());
    }

    @Override
    public Optional<String> show(long part) {
      return Optional.of(part + " of " + rule.parts());
    }
  }
}
