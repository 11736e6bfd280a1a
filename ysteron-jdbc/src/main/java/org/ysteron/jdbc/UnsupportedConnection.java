package org.ysteron.jdbc;

import java.sql.Blob;
import java.sql.CallableStatement;
import java.sql.Clob;
import java.sql.Connection;
import java.sql.NClob;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.SQLXML;
import java.sql.Savepoint;
import java.util.Map;

/** What a connection does not have. */
abstract class UnsupportedConnection extends Unwrapped implements Connection {
  private static final String KEYS = "generated keys";
  private static final String LARGE = "large objects that are made by the connection; set streams";

  private static SQLException savepoints() {
    return SqlErrors.unsupported(
        "savepoints; a statement that fails leaves its transaction as it was");
  }

  private static SQLException callable() {
    return SqlErrors.unsupported(
        "callable statements; prepare CALL lake.…, whose report is a result");
  }

  @Override
  public final CallableStatement prepareCall(String sql) throws SQLException {
    throw callable();
  }

  @Override
  public final CallableStatement prepareCall(String sql, int type, int concurrency)
      throws SQLException {
    throw callable();
  }

  @Override
  public final CallableStatement prepareCall(String sql, int type, int concurrency, int holdability)
      throws SQLException {
    throw callable();
  }

  @Override
  public final void setTypeMap(Map<String, Class<?>> map) throws SQLException {
    if (!map.isEmpty()) {
      throw SqlErrors.unsupported("classes for types");
    }
  }

  @Override
  public final Savepoint setSavepoint() throws SQLException {
    throw savepoints();
  }

  @Override
  public final Savepoint setSavepoint(String name) throws SQLException {
    throw savepoints();
  }

  @Override
  public final void rollback(Savepoint savepoint) throws SQLException {
    throw savepoints();
  }

  @Override
  public final void releaseSavepoint(Savepoint savepoint) throws SQLException {
    throw savepoints();
  }

  @Override
  public final PreparedStatement prepareStatement(String sql, int[] columns) throws SQLException {
    throw SqlErrors.unsupported(KEYS);
  }

  @Override
  public final PreparedStatement prepareStatement(String sql, String[] columns)
      throws SQLException {
    throw SqlErrors.unsupported(KEYS);
  }

  @Override
  public final Clob createClob() throws SQLException {
    throw SqlErrors.unsupported(LARGE);
  }

  @Override
  public final Blob createBlob() throws SQLException {
    throw SqlErrors.unsupported(LARGE);
  }

  @Override
  public final NClob createNClob() throws SQLException {
    throw SqlErrors.unsupported(LARGE);
  }

  @Override
  public final SQLXML createSQLXML() throws SQLException {
    throw SqlErrors.unsupported("XML");
  }
}
