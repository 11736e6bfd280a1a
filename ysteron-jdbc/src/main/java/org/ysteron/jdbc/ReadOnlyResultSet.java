package org.ysteron.jdbc;

import java.io.InputStream;
import java.io.Reader;
import java.math.BigDecimal;
import java.sql.Array;
import java.sql.Blob;
import java.sql.Clob;
import java.sql.Date;
import java.sql.NClob;
import java.sql.Ref;
import java.sql.ResultSet;
import java.sql.RowId;
import java.sql.SQLException;
import java.sql.SQLXML;
import java.sql.Time;
import java.sql.Timestamp;

/** What a result does not have: changes of rows, and moves in other directions than forward. */
abstract class ReadOnlyResultSet extends Unwrapped implements ResultSet {
  private static SQLException readOnly() {
    return SqlErrors.unsupported("changing rows of a result; use UPDATE, INSERT or DELETE");
  }

  private static SQLException forwardOnly() {
    return SqlErrors.unsupported("moving in a result in other directions than forward");
  }

  @Override
  public final void updateNull(int index) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBoolean(int index, boolean value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateByte(int index, byte value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateShort(int index, short value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateInt(int index, int value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateLong(int index, long value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateFloat(int index, float value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateDouble(int index, double value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBigDecimal(int index, BigDecimal value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateString(int index, String value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBytes(int index, byte[] value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateDate(int index, Date value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateTime(int index, Time value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateTimestamp(int index, Timestamp value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(int index, InputStream value, int length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(int index, InputStream value, int length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(int index, Reader value, int length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateObject(int index, Object value, int length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateObject(int index, Object value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNull(String label) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBoolean(String label, boolean value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateByte(String label, byte value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateShort(String label, short value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateInt(String label, int value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateLong(String label, long value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateFloat(String label, float value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateDouble(String label, double value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBigDecimal(String label, BigDecimal value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateString(String label, String value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBytes(String label, byte[] value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateDate(String label, Date value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateTime(String label, Time value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateTimestamp(String label, Timestamp value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(String label, InputStream value, int length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(String label, InputStream value, int length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(String label, Reader value, int length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateObject(String label, Object value, int length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateObject(String label, Object value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void insertRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void deleteRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void refreshRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void cancelRowUpdates() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void moveToInsertRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void moveToCurrentRow() throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateRef(int index, Ref value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateRef(String label, Ref value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(int index, Blob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(String label, Blob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(int index, Clob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(String label, Clob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateArray(int index, Array value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateArray(String label, Array value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateRowId(int index, RowId value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateRowId(String label, RowId value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNString(int index, String value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNString(String label, String value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(int index, NClob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(String label, NClob value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateSQLXML(int index, SQLXML value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateSQLXML(String label, SQLXML value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNCharacterStream(int index, Reader value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNCharacterStream(String label, Reader value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(int index, InputStream value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(int index, InputStream value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(int index, Reader value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(String label, InputStream value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(String label, InputStream value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(String label, Reader value, long length)
      throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(int index, InputStream value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(String label, InputStream value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(int index, Reader value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(String label, Reader value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(int index, Reader value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(String label, Reader value, long length) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNCharacterStream(int index, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNCharacterStream(String label, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(int index, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(int index, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(int index, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateAsciiStream(String label, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBinaryStream(String label, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateCharacterStream(String label, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(int index, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateBlob(String label, InputStream value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(int index, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateClob(String label, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(int index, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void updateNClob(String label, Reader value) throws SQLException {
    throw readOnly();
  }

  @Override
  public final void beforeFirst() throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final void afterLast() throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final boolean first() throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final boolean last() throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final boolean absolute(int index) throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final boolean relative(int index) throws SQLException {
    throw forwardOnly();
  }

  @Override
  public final boolean previous() throws SQLException {
    throw forwardOnly();
  }
}
