package org.ysteron.jdbc;

import java.math.BigDecimal;
import java.sql.Array;
import java.sql.Date;
import java.sql.SQLException;
import java.sql.Struct;
import java.sql.Time;
import java.sql.Timestamp;
import java.sql.Types;
import java.time.OffsetDateTime;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Type;
import org.ysteron.error.YsteronException;

/** Types of columns as JDBC has them. */
final class ColumnTypes {
  private static final int MICROSECONDS = 6;

  private ColumnTypes() {}

  /** The type of a name, for arrays that clients make. */
  static Type named(String name) throws SQLException {
    try {
      return org.ysteron.data.Types.parse(name);
    } catch (YsteronException e) {
      throw SqlErrors.of(e);
    }
  }

  /** The number of {@link Types}. */
  static int code(Type type) {
    if (type instanceof Type.Decimal) {
      return Types.DECIMAL;
    }
    if (type instanceof Type.Text) {
      return Types.VARCHAR;
    }
    if (type instanceof Type.ListOf) {
      return Types.ARRAY;
    }
    if (type instanceof Type.Struct) {
      return Types.STRUCT;
    }
    if (!(type instanceof Type.Simple simple)) {
      return Types.OTHER;
    }
    return switch (simple) {
      case BOOLEAN -> Types.BOOLEAN;
      case INTEGER -> Types.INTEGER;
      case BIGINT -> Types.BIGINT;
      case REAL -> Types.REAL;
      case DOUBLE -> Types.DOUBLE;
      case DATE -> Types.DATE;
      case TIME -> Types.TIME;
      case TIMESTAMP -> Types.TIMESTAMP;
      case INSTANT -> Types.TIMESTAMP_WITH_TIMEZONE;
      case BINARY -> Types.VARBINARY;
      case UUID -> Types.OTHER;
      case JSON -> Types.VARCHAR;
    };
  }

  /** The name, without digits and lengths. */
  static String name(Type type) {
    if (type instanceof Type.Decimal) {
      return "DECIMAL";
    }
    if (type instanceof Type.Text) {
      return "VARCHAR";
    }
    if (type instanceof Type.ListOf list) {
      return name(list.element().type()) + " ARRAY";
    }
    if (type instanceof Type.Struct) {
      return "ROW";
    }
    return type instanceof Type.MapOf ? "MAP" : type.toString();
  }

  /** The class of what {@code getObject} gives. */
  static Class<?> javaClass(Type type) {
    return switch (code(type)) {
      case Types.BOOLEAN -> Boolean.class;
      case Types.INTEGER -> Integer.class;
      case Types.BIGINT -> Long.class;
      case Types.REAL -> Float.class;
      case Types.DOUBLE -> Double.class;
      case Types.DECIMAL -> BigDecimal.class;
      case Types.VARCHAR -> String.class;
      case Types.DATE -> Date.class;
      case Types.TIME -> Time.class;
      case Types.TIMESTAMP -> Timestamp.class;
      case Types.TIMESTAMP_WITH_TIMEZONE -> OffsetDateTime.class;
      case Types.VARBINARY -> byte[].class;
      case Types.ARRAY -> Array.class;
      case Types.STRUCT -> Struct.class;
      default -> type == org.ysteron.data.Types.UUID ? UUID.class : Map.class;
    };
  }

  /** Digits of a number, the longest text, digits of a second; 0 where there is no limit. */
  static int precision(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return decimal.precision();
    }
    if (type instanceof Type.Text text) {
      return text.limit().orElse(0);
    }
    return switch (code(type)) {
      case Types.INTEGER -> 10;
      case Types.BIGINT -> 19;
      case Types.REAL -> 7;
      case Types.DOUBLE -> 15;
      case Types.BOOLEAN -> 1;
      case Types.DATE -> 10;
      case Types.TIME -> 15;
      case Types.TIMESTAMP -> 26;
      case Types.TIMESTAMP_WITH_TIMEZONE -> 32;
      case Types.OTHER -> type == org.ysteron.data.Types.UUID ? 36 : 0;
      default -> 0;
    };
  }

  /** Digits behind the decimal point, of a number or of a second. */
  static int scale(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return decimal.scale();
    }
    return switch (code(type)) {
      case Types.TIME, Types.TIMESTAMP, Types.TIMESTAMP_WITH_TIMEZONE -> MICROSECONDS;
      default -> 0;
    };
  }

  /** Characters that the longest value takes; the greatest number where there is no limit. */
  static int width(Type type) {
    int precision = precision(type);
    if (type instanceof Type.Decimal) {
      return precision + 2; // a sign and a point
    }
    return switch (code(type)) {
      case Types.BOOLEAN -> 5;
      case Types.INTEGER, Types.BIGINT -> precision + 1;
      case Types.REAL -> 15;
      case Types.DOUBLE -> 25;
      default -> precision == 0 ? Integer.MAX_VALUE : precision;
    };
  }

  static boolean isSigned(Type type) {
    return type.isNumber();
  }
}
