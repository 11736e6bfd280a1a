package org.ysteron.jdbc;

import java.sql.SQLException;
import java.sql.Wrapper;

/** An object of JDBC that wraps no other. */
abstract class Unwrapped implements Wrapper {
  @Override
  public final <T> T unwrap(Class<T> type) throws SQLException {
    if (type.isInstance(this)) {
      return type.cast(this);
    }
    throw SqlErrors.of(SqlErrors.GENERAL, "This is no %s.".formatted(type.getName()));
  }

  @Override
  public final boolean isWrapperFor(Class<?> type) {
    return type.isInstance(this);
  }
}
