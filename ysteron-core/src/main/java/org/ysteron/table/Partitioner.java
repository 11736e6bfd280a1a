package org.ysteron.table;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import net.openhft.hashing.LongHashFunction;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.Widening;
import org.ysteron.expr.Grouping;
import org.ysteron.expr.Ordered;

/**
 * A partition rule on a column of some type: gives each value its part, a whole number. A value
 * keeps its part when the column becomes wider, because ranges go by the value itself, and lists
 * and hashes by its canonical form ({@code docs/format.md}, "Layouts"). Immutable, thread-safe.
 */
public abstract sealed class Partitioner implements Grouping {
  private static final long MICROS_A_MINUTE = 60_000_000L;
  private static final long MICROS_A_DAY = 1440 * MICROS_A_MINUTE;
  private static final LongHashFunction XX = LongHashFunction.xx();

  private final int fieldId;
  private final int partId;
  final Type type;

  private Partitioner(int fieldId, int partId, Type type) {
    this.fieldId = fieldId;
    this.partId = partId;
    this.type = type;
  }

  /** Applies a rule to a column of a type. */
  static Partitioner of(PartitionRule rule, int partId, Type type) {
    if (rule instanceof PartitionRule.Every every) {
      return new Steps(every, partId, type);
    }
    if (rule instanceof PartitionRule.At at) {
      return new Bounds(at, partId, type);
    }
    return new Points(rule, partId, type);
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

  /** Ranges of equal steps. */
  static final class Steps extends Partitioner {
    private final PartitionRule.Every rule;

    Steps(PartitionRule.Every rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
      this.rule = rule;
    }

    @Override
    long part(long held) {
      if (rule.unit() == ChronoUnit.FOREVER) {
        return ofNumber(held);
      }
      long step = rule.step();
      if (rule.unit() == ChronoUnit.HOURS || rule.unit() == ChronoUnit.MINUTES) {
        long minutes = Math.floorDiv(held, MICROS_A_MINUTE);
        return Math.floorDiv(minutes, rule.unit() == ChronoUnit.HOURS ? 60 * step : step);
      }
      long day = type == Types.DATE ? held : Math.floorDiv(held, MICROS_A_DAY);
      if (rule.unit() == ChronoUnit.DAYS) {
        return Math.floorDiv(day, step);
      }
      long bounded =
          Math.max(LocalDate.MIN.toEpochDay(), Math.min(LocalDate.MAX.toEpochDay(), day));
      LocalDate date = LocalDate.ofEpochDay(bounded);
      return rule.unit() == ChronoUnit.YEARS
          ? Math.floorDiv((long) date.getYear(), step)
          : Math.floorDiv((date.getYear() - 1970L) * 12 + date.getMonthValue() - 1, step);
    }

    private long ofNumber(long held) {
      if (Ordered.isFloating(type)) {
        double value = Ordered.toDouble(held);
        if (Double.isNaN(value)) {
          return held < 0 ? Long.MIN_VALUE : Long.MAX_VALUE; // below and above all numbers
        }
        return (long) Math.floor(value / rule.step());
      }
      if (!(type instanceof Type.Decimal decimal)) {
        return Math.floorDiv(held, rule.step());
      }
      return ofDecimal(BigDecimal.valueOf(held, decimal.scale()));
    }

    private long ofDecimal(BigDecimal value) {
      BigInteger part =
          value.divide(BigDecimal.valueOf(rule.step()), 0, RoundingMode.FLOOR).toBigInteger();
      return part.bitLength() < Long.SIZE
          ? part.longValue()
          : part.signum() < 0 ? Long.MIN_VALUE : Long.MAX_VALUE;
    }

    @Override
    long part(byte[] bytes) {
      return ofDecimal((BigDecimal) Values.fromBytes(bytes, 0, bytes.length, type));
    }

    @Override
    public Optional<Span> parts(long low, long high) {
      return Optional.of(new Span(part(low), part(high)));
    }

    @Override
    public Optional<Span> parts(byte[] low, byte[] high) {
      boolean whole = low.length >= 16 && (high == null || high.length >= 16);
      return whole
          ? Optional.of(
              new Span(
                  part(Arrays.copyOf(low, 16)),
                  high == null ? Long.MAX_VALUE : part(Arrays.copyOf(high, 16))))
          : Optional.empty();
    }

    @Override
    public Optional<String> show(long part) {
      return Optional.of(shown(part));
    }

    private String shown(long part) {
      long start = part * rule.step();
      return switch (rule.unit()) {
        case YEARS -> String.valueOf(start);
        case MONTHS -> LocalDate.EPOCH.plusMonths(start).toString().substring(0, 7);
        case DAYS -> LocalDate.ofEpochDay(start).toString();
        case HOURS -> time(start * 60).substring(0, 13);
        case MINUTES -> time(start);
        default -> "[%d, %d)".formatted(start, start + rule.step());
      };
    }

    private static String time(long minutes) {
      return LocalDateTime.ofEpochSecond(minutes * 60, 0, ZoneOffset.UTC).toString();
    }
  }

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

  /** Lists and hashes, which know single values only. */
  static final class Points extends Partitioner {
    private final PartitionRule rule;
    private final Map<Long, Long> groups = new HashMap<>();

    Points(PartitionRule rule, int partId, Type type) {
      super(rule.fieldId(), partId, type);
      this.rule = rule;
      if (rule instanceof PartitionRule.Groups of) {
        for (int g = 0; g < of.groups().size(); g++) {
          for (Object value : of.groups().get(g)) {
            groups.put(canonicalOf(Widening.value(value, of.type(), type)), (long) g);
          }
        }
      }
    }

    private long canonicalOf(Object value) {
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

    private long ofCanonical(long canonical) {
      if (rule instanceof PartitionRule.Hash hash) {
        byte[] eight =
            ByteBuffer.allocate(Long.BYTES)
                .order(ByteOrder.LITTLE_ENDIAN)
                .putLong(canonical)
                .array();
        return Long.remainderUnsigned(XX.hashBytes(eight), hash.parts());
      }
      if (rule instanceof PartitionRule.Groups of) {
        return groups.getOrDefault(canonical, (long) of.groups().size());
      }
      return canonical;
    }

    /** Whole numbers, also as decimals and doubles, are themselves; other numbers a hash. */
    private long canonical(long held) {
      if (Ordered.isFloating(type)) {
        double value = Ordered.toDouble(held);
        boolean whole = value == Math.rint(value) && Math.abs(value) < 1L << 53;
        return whole ? (long) value : hash(BigInteger.valueOf(Double.doubleToLongBits(value)));
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
      return XX.hashBytes(
          plain.toPlainString().getBytes(java.nio.charset.StandardCharsets.US_ASCII));
    }

    private static long hash(BigInteger bits) {
      return XX.hashBytes(
          ByteBuffer.allocate(Long.BYTES)
              .order(ByteOrder.LITTLE_ENDIAN)
              .putLong(bits.longValue())
              .array());
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

    @Override
    public Optional<String> show(long part) {
      if (rule instanceof PartitionRule.Hash hash) {
        return Optional.of(part + " of " + hash.parts());
      }
      if (rule instanceof PartitionRule.Groups of) {
        return Optional.of(
            part < of.groups().size() ? of.groups().get((int) part).toString() : "others");
      }
      return Optional.empty();
    }
  }
}
