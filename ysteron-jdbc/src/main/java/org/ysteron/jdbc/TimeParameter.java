package org.ysteron.jdbc;

import java.sql.Timestamp;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Calendar;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.sql.text.TypedValue;

/**
 * A timestamp of JDBC for a question mark: an instant where one is wanted, else what a clock on the
 * wall shows then.
 */
record TimeParameter(Timestamp time, ZoneId wall) implements TypedValue {
  static TimeParameter of(Timestamp time, @Nullable Calendar calendar) {
    return new TimeParameter(
        time, calendar == null ? ZoneId.systemDefault() : calendar.getTimeZone().toZoneId());
  }

  @Override
  public Object as(Type type) {
    if (type == Types.INSTANT) {
      return time.toInstant();
    }
    LocalDateTime shown = LocalDateTime.ofInstant(time.toInstant(), wall);
    return type == Types.DATE
        ? shown.toLocalDate()
        : type == Types.TIME ? shown.toLocalTime() : shown;
  }
}
