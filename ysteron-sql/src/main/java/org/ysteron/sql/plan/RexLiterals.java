package org.ysteron.sql.plan;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Period;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.sql.type.SqlTypeName;
import org.apache.calcite.util.DateString;
import org.apache.calcite.util.TimeString;
import org.apache.calcite.util.TimestampString;
import org.apache.calcite.util.TimestampWithTimeZoneString;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Cast;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.sql.catalog.RelTypes;

/** Planned literals as those of a lake. */
final class RexLiterals {
  private RexLiterals() {}

  static Expression of(RexLiteral literal) {
    Type type = RelTypes.of(literal.getType());
    return literal.isNull() ? new Cast(new Literal(null), type) : new Literal(value(literal, type));
  }

  private static Object value(RexLiteral literal, Type type) {
    if (type.isNumber()) {
      return number(literal, type);
    }
    if (type.isText()) {
      return literal.getValueAs(String.class);
    }
    if (type instanceof Type.Interval) {
      BigDecimal value = literal.getValueAs(BigDecimal.class);
      return type == Type.Interval.MONTHS
          ? Period.ofMonths(value.intValueExact())
          : Duration.ofMillis(value.longValueExact());
    }
    if (type == Types.BOOLEAN) {
      return literal.getValueAs(Boolean.class);
    }
    if (type == Types.DATE) {
      return LocalDate.parse(literal.getValueAs(DateString.class).toString());
    }
    if (type == Types.TIME) {
      return LocalTime.parse(literal.getValueAs(TimeString.class).toString());
    }
    if (type == Types.TIMESTAMP) {
      return timestamp(literal.getValueAs(TimestampString.class));
    }
    if (type == Types.INSTANT) {
      return instant(literal);
    }
    if (type == Types.BINARY) {
      return literal.getValueAs(byte[].class);
    }
    throw new InvalidInputException("The literal %s cannot be used here.".formatted(literal));
  }

  private static Object number(RexLiteral literal, Type type) {
    if (literal.getTypeName() == SqlTypeName.DOUBLE || !(type instanceof Type.Decimal)) {
      Number number = (Number) literal.getValue();
      if (type == Types.INTEGER) {
        return new BigDecimal(number.toString()).intValueExact();
      }
      if (type == Types.BIGINT) {
        return new BigDecimal(number.toString()).longValueExact();
      }
      return type == Types.REAL ? (Object) number.floatValue() : number.doubleValue();
    }
    BigDecimal exact = literal.getValueAs(BigDecimal.class);
    int scale = Numbers.scale(type);
    return exact.scale() < scale ? exact.setScale(scale, RoundingMode.UNNECESSARY) : exact;
  }

  private static LocalDateTime timestamp(TimestampString text) {
    return LocalDateTime.parse(text.toString().replace(' ', 'T'));
  }

  private static Instant instant(RexLiteral literal) {
    TimestampWithTimeZoneString text = literal.getValueAs(TimestampWithTimeZoneString.class);
    return timestamp(text.getLocalTimestampString())
        .atZone(text.getTimeZone().toZoneId())
        .toInstant();
  }
}
