package org.ysteron.jdbc;

import java.io.ByteArrayInputStream;
import java.io.InputStream;
import java.io.Reader;
import java.io.StringReader;
import java.math.BigDecimal;
import java.net.URL;
import java.nio.charset.StandardCharsets;
import java.sql.Array;
import java.sql.Blob;
import java.sql.Clob;
import java.sql.Date;
import java.sql.NClob;
import java.sql.Ref;
import java.sql.RowId;
import java.sql.SQLException;
import java.sql.SQLXML;
import java.sql.Time;
import java.sql.Timestamp;
import java.util.Calendar;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Columns by their labels, and by numbers as streams and as what a lake does not have. */
abstract class LabelledResultSet extends ReadOnlyResultSet {
  @Override
  public final @Nullable String getString(String label) throws SQLException {
    return getString(findColumn(label));
  }

  @Override
  public final boolean getBoolean(String label) throws SQLException {
    return getBoolean(findColumn(label));
  }

  @Override
  public final byte getByte(String label) throws SQLException {
    return getByte(findColumn(label));
  }

  @Override
  public final short getShort(String label) throws SQLException {
    return getShort(findColumn(label));
  }

  @Override
  public final int getInt(String label) throws SQLException {
    return getInt(findColumn(label));
  }

  @Override
  public final long getLong(String label) throws SQLException {
    return getLong(findColumn(label));
  }

  @Override
  public final float getFloat(String label) throws SQLException {
    return getFloat(findColumn(label));
  }

  @Override
  public final double getDouble(String label) throws SQLException {
    return getDouble(findColumn(label));
  }

  @Override
  @Deprecated
  public final @Nullable BigDecimal getBigDecimal(String label, int value) throws SQLException {
    return getBigDecimal(findColumn(label), value);
  }

  @Override
  public final byte @Nullable [] getBytes(String label) throws SQLException {
    return getBytes(findColumn(label));
  }

  @Override
  public final @Nullable Date getDate(String label) throws SQLException {
    return getDate(findColumn(label));
  }

  @Override
  public final @Nullable Time getTime(String label) throws SQLException {
    return getTime(findColumn(label));
  }

  @Override
  public final @Nullable Timestamp getTimestamp(String label) throws SQLException {
    return getTimestamp(findColumn(label));
  }

  @Override
  public final @Nullable InputStream getAsciiStream(String label) throws SQLException {
    return getAsciiStream(findColumn(label));
  }

  @Override
  @Deprecated
  public final @Nullable InputStream getUnicodeStream(String label) throws SQLException {
    return getUnicodeStream(findColumn(label));
  }

  @Override
  public final @Nullable InputStream getBinaryStream(String label) throws SQLException {
    return getBinaryStream(findColumn(label));
  }

  @Override
  public final @Nullable Object getObject(String label) throws SQLException {
    return getObject(findColumn(label));
  }

  @Override
  public final @Nullable Reader getCharacterStream(String label) throws SQLException {
    return getCharacterStream(findColumn(label));
  }

  @Override
  public final @Nullable BigDecimal getBigDecimal(String label) throws SQLException {
    return getBigDecimal(findColumn(label));
  }

  @Override
  public final @Nullable Object getObject(String label, Map<String, Class<?>> value)
      throws SQLException {
    return getObject(findColumn(label), value);
  }

  @Override
  public final @Nullable Ref getRef(String label) throws SQLException {
    return getRef(findColumn(label));
  }

  @Override
  public final @Nullable Blob getBlob(String label) throws SQLException {
    return getBlob(findColumn(label));
  }

  @Override
  public final @Nullable Clob getClob(String label) throws SQLException {
    return getClob(findColumn(label));
  }

  @Override
  public final @Nullable Array getArray(String label) throws SQLException {
    return getArray(findColumn(label));
  }

  @Override
  public final @Nullable Date getDate(String label, @Nullable Calendar value) throws SQLException {
    return getDate(findColumn(label), value);
  }

  @Override
  public final @Nullable Time getTime(String label, @Nullable Calendar value) throws SQLException {
    return getTime(findColumn(label), value);
  }

  @Override
  public final @Nullable Timestamp getTimestamp(String label, @Nullable Calendar value)
      throws SQLException {
    return getTimestamp(findColumn(label), value);
  }

  @Override
  public final @Nullable URL getURL(String label) throws SQLException {
    return getURL(findColumn(label));
  }

  @Override
  public final RowId getRowId(String label) throws SQLException {
    return getRowId(findColumn(label));
  }

  @Override
  public final @Nullable NClob getNClob(String label) throws SQLException {
    return getNClob(findColumn(label));
  }

  @Override
  public final SQLXML getSQLXML(String label) throws SQLException {
    return getSQLXML(findColumn(label));
  }

  @Override
  public final @Nullable String getNString(String label) throws SQLException {
    return getNString(findColumn(label));
  }

  @Override
  public final @Nullable Reader getNCharacterStream(String label) throws SQLException {
    return getNCharacterStream(findColumn(label));
  }

  @Override
  public final <T> @Nullable T getObject(String label, Class<T> value) throws SQLException {
    return getObject(findColumn(label), value);
  }

  @Override
  public final @Nullable InputStream getAsciiStream(int index) throws SQLException {
    String text = getString(index);
    return text == null ? null : new ByteArrayInputStream(text.getBytes(StandardCharsets.US_ASCII));
  }

  @Override
  @Deprecated
  public final @Nullable InputStream getUnicodeStream(int index) throws SQLException {
    String text = getString(index);
    return text == null ? null : new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8));
  }

  @Override
  public final @Nullable InputStream getBinaryStream(int index) throws SQLException {
    byte[] bytes = getBytes(index);
    return bytes == null ? null : new ByteArrayInputStream(bytes);
  }

  @Override
  public final @Nullable Reader getCharacterStream(int index) throws SQLException {
    String text = getString(index);
    return text == null ? null : new StringReader(text);
  }

  @Override
  public final @Nullable Reader getNCharacterStream(int index) throws SQLException {
    return getCharacterStream(index);
  }

  @Override
  public final @Nullable String getNString(int index) throws SQLException {
    return getString(index);
  }

  @Override
  public final @Nullable Object getObject(int index, Map<String, Class<?>> map)
      throws SQLException {
    return getObject(index);
  }

  @Override
  public final @Nullable Date getDate(int index) throws SQLException {
    return getDate(index, null);
  }

  @Override
  public final @Nullable Time getTime(int index) throws SQLException {
    return getTime(index, null);
  }

  @Override
  public final @Nullable Timestamp getTimestamp(int index) throws SQLException {
    return getTimestamp(index, null);
  }

  private static SQLException large() {
    return SqlErrors.unsupported("large objects; read texts, bytes or streams");
  }

  @Override
  public final Blob getBlob(int index) throws SQLException {
    throw large();
  }

  @Override
  public final Clob getClob(int index) throws SQLException {
    throw large();
  }

  @Override
  public final NClob getNClob(int index) throws SQLException {
    throw large();
  }

  @Override
  public final Ref getRef(int index) throws SQLException {
    throw SqlErrors.unsupported("references");
  }

  @Override
  public final URL getURL(int index) throws SQLException {
    throw SqlErrors.unsupported("URLs; read a text");
  }

  @Override
  public final RowId getRowId(int index) throws SQLException {
    throw SqlErrors.unsupported("row IDs");
  }

  @Override
  public final SQLXML getSQLXML(int index) throws SQLException {
    throw SqlErrors.unsupported("XML");
  }
}
