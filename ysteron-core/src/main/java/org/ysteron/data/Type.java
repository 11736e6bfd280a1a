package org.ysteron.data;

import java.util.List;
import java.util.OptionalInt;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.SqlNames;

/**
 * The type of a field. Each type has one Java class for its values:
 *
 * <table>
 *   <caption>types and values</caption>
 *   <tr><th>type</th><th>SQL</th><th>Java</th></tr>
 *   <tr><td>boolean</td><td>BOOLEAN</td><td>{@link Boolean}</td></tr>
 *   <tr><td>integer, 32 bits</td><td>INTEGER</td><td>{@link Integer}</td></tr>
 *   <tr><td>bigint, 64 bits</td><td>BIGINT</td><td>{@link Long}</td></tr>
 *   <tr><td>real, 32 bits</td><td>REAL</td><td>{@link Float}</td></tr>
 *   <tr><td>double, 64 bits</td><td>DOUBLE PRECISION</td><td>{@link Double}</td></tr>
 *   <tr><td>decimal, up to 38 digits</td><td>DECIMAL(p, s)</td><td>{@link java.math.BigDecimal}, of
 *       the type's scale</td></tr>
 *   <tr><td>date</td><td>DATE</td><td>{@link java.time.LocalDate}</td></tr>
 *   <tr><td>time, microseconds</td><td>TIME</td><td>{@link java.time.LocalTime}</td></tr>
 *   <tr><td>timestamp, microseconds</td><td>TIMESTAMP</td><td>{@link
 *       java.time.LocalDateTime}</td></tr>
 *   <tr><td>instant, microseconds</td><td>TIMESTAMP WITH TIME ZONE</td><td>{@link
 *       java.time.Instant}</td></tr>
 *   <tr><td>text, with or without a limit in characters</td><td>VARCHAR(n)</td><td>{@link
 *       String}</td></tr>
 *   <tr><td>binary</td><td>VARBINARY</td><td>{@code byte[]}</td></tr>
 *   <tr><td>uuid</td><td>UUID</td><td>{@link java.util.UUID}</td></tr>
 *   <tr><td>json</td><td>JSON</td><td>{@link String}, valid by RFC 8259</td></tr>
 *   <tr><td>list</td><td>t ARRAY</td><td>{@link java.util.List}</td></tr>
 *   <tr><td>map</td><td>MAP&lt;k, v&gt;</td><td>{@link java.util.Map}</td></tr>
 *   <tr><td>struct</td><td>ROW(…)</td><td>{@link Row}</td></tr>
 * </table>
 *
 * <p>Order, wherever values are compared: NaN equals itself and is above all other numbers, -0.0
 * equals 0.0, text compares by its UTF-8 bytes, binary and uuid by their bytes, unsigned.
 */
public sealed interface Type {

  /** Types without parameters. */
  enum Simple implements Type {
    BOOLEAN("BOOLEAN", Physical.BOOLEAN),
    INTEGER("INTEGER", Physical.INT),
    BIGINT("BIGINT", Physical.LONG),
    REAL("REAL", Physical.FLOAT),
    DOUBLE("DOUBLE PRECISION", Physical.DOUBLE),
    DATE("DATE", Physical.INT),
    TIME("TIME", Physical.LONG),
    TIMESTAMP("TIMESTAMP", Physical.LONG),
    INSTANT("TIMESTAMP WITH TIME ZONE", Physical.LONG),
    BINARY("VARBINARY", Physical.BYTES),
    UUID("UUID", Physical.BYTES),
    JSON("JSON", Physical.BYTES);

    private final String sql;
    private final Physical physical;

    Simple(String sql, Physical physical) {
      this.sql = sql;
      this.physical = physical;
    }

    @Override
    public String toString() {
      return sql;
    }
  }

  /**
   * Intervals of time, which expressions compute with; no column has such a type. Their values are
   * a {@link java.time.Period} of months and a {@link java.time.Duration}.
   */
  enum Interval implements Type {
    MONTHS("INTERVAL YEAR TO MONTH"),
    MICROSECONDS("INTERVAL DAY TO SECOND");

    private final String sql;

    Interval(String sql) {
      this.sql = sql;
    }

    @Override
    public String toString() {
      return sql;
    }
  }

  /** Exact numbers of {@code precision} digits, {@code scale} of them after the decimal point. */
  record Decimal(int precision, int scale) implements Type {
    public static final int MOST_DIGITS = 38;

    public Decimal {
      if (precision < 1 || precision > MOST_DIGITS || scale < 0 || scale > precision) {
        throw new InvalidInputException(
            "DECIMAL(%d, %d) is not a type: the precision is 1 to 38, and the scale 0 to the precision."
                .formatted(precision, scale));
      }
    }

    /** Whether its unscaled values fit 64 bits. */
    public boolean isShort() {
      return precision <= 18;
    }

    @Override
    public String toString() {
      return "DECIMAL(" + precision + ", " + scale + ")";
    }
  }

  /** Text, of at most {@code limit} characters (code points). */
  record Text(OptionalInt limit) implements Type {
    public Text {
      if (limit.isPresent() && limit.getAsInt() < 1) {
        throw new InvalidInputException("VARCHAR(" + limit.getAsInt() + ") holds nothing.");
      }
    }

    @Override
    public String toString() {
      return limit.isPresent() ? "VARCHAR(" + limit.getAsInt() + ")" : "VARCHAR";
    }
  }

  /** A list of elements; the element is a field named {@code element}. */
  record ListOf(Field element) implements Type {
    @Override
    public String toString() {
      return element.type() + (element.required() ? " NOT NULL ARRAY" : " ARRAY");
    }
  }

  /** A map of keys, never null, to values; fields named {@code key} and {@code value}. */
  record MapOf(Field key, Field value) implements Type {
    @Override
    public String toString() {
      return "MAP<" + key.type() + ", " + value.type() + ">";
    }
  }

  /** Named fields. */
  record Struct(List<Field> fields) implements Type {
    public Struct {
      fields = List.copyOf(fields);
    }

    /** The position of the field of that name, or -1. */
    public int indexOf(String name) {
      for (int i = 0; i < fields.size(); i++) {
        if (fields.get(i).name().equals(name)) {
          return i;
        }
      }
      return -1;
    }

    @Override
    public String toString() {
      StringBuilder sql = new StringBuilder("ROW(");
      for (Field field : fields) {
        sql.append(sql.length() > 4 ? ", " : "").append(SqlNames.of(field.name())).append(' ');
        sql.append(field.type()).append(field.required() ? " NOT NULL" : "");
      }
      return sql.append(')').toString();
    }
  }

  /** How vectors hold a value of this type; empty for nested types. */
  default Physical physical() {
    if (this instanceof Simple simple) {
      return simple.physical;
    }
    if (this instanceof Decimal decimal) {
      return decimal.isShort() ? Physical.LONG : Physical.BYTES;
    }
    if (this instanceof Interval) {
      return Physical.LONG;
    }
    return this instanceof Text ? Physical.BYTES : Physical.NESTED;
  }

  default boolean isNested() {
    return physical() == Physical.NESTED;
  }

  /** Whether values are Java strings. */
  default boolean isText() {
    return this instanceof Text || this == Simple.JSON;
  }

  /** Whether values are numbers. */
  default boolean isNumber() {
    return this instanceof Decimal
        || this == Simple.INTEGER
        || this == Simple.BIGINT
        || this == Simple.REAL
        || this == Simple.DOUBLE;
  }

  /** Whether values are dates or times. */
  default boolean isTime() {
    return this == Simple.DATE
        || this == Simple.TIME
        || this == Simple.TIMESTAMP
        || this == Simple.INSTANT;
  }

  /**
   * How a vector holds values: dates as days, times as microseconds of the day, timestamps as
   * microseconds since 1970-01-01 (UTC for instants), short decimals unscaled, long decimals as 16
   * bytes, big-endian with the sign bit inverted so that bytes order like numbers, uuids as 16
   * bytes, text as UTF-8.
   */
  enum Physical {
    BOOLEAN,
    INT,
    LONG,
    FLOAT,
    DOUBLE,
    BYTES,
    NESTED
  }
}
