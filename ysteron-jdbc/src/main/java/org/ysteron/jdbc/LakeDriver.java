package org.ysteron.jdbc;

import java.sql.Connection;
import java.sql.Driver;
import java.sql.DriverManager;
import java.sql.DriverPropertyInfo;
import java.sql.SQLException;
import java.util.Properties;
import java.util.logging.Logger;
import org.jspecify.annotations.Nullable;

/**
 * The driver of addresses {@code jdbc:ysteron:LOCATION?name=value&…}, where LOCATION is the
 * directory of a lake. {@link ConnectionSettings} has the names. Thread-safe.
 */
public final class LakeDriver implements Driver {
  static final int MAJOR = 0;
  static final int MINOR = 1;

  static {
    try {
      DriverManager.registerDriver(new LakeDriver());
    } catch (SQLException e) {
      throw new ExceptionInInitializerError(e);
    }
  }

  @Override
  public @Nullable Connection connect(String url, Properties info) throws SQLException {
    return acceptsURL(url) ? new LakeConnection(ConnectionSettings.of(url, info)) : null;
  }

  @Override
  public boolean acceptsURL(String url) {
    return url != null && url.startsWith(ConnectionSettings.PREFIX);
  }

  @Override
  public DriverPropertyInfo[] getPropertyInfo(String url, Properties info) throws SQLException {
    return ConnectionSettings.described(url, info);
  }

  @Override
  public int getMajorVersion() {
    return MAJOR;
  }

  @Override
  public int getMinorVersion() {
    return MINOR;
  }

  @Override
  public boolean jdbcCompliant() {
    return false; // there are no savepoints, no updatable results and no dialect of entry level
  }

  @Override
  public Logger getParentLogger() {
    return Logger.getLogger("org.ysteron");
  }
}
