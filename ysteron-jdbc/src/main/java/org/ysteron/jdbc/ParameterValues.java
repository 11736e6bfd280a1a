package org.ysteron.jdbc;

import java.io.IOException;
import java.io.InputStream;
import java.io.Reader;
import java.io.StringWriter;
import java.math.BigDecimal;
import java.net.URL;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.sql.Array;
import java.sql.Blob;
import java.sql.Clob;
import java.sql.Date;
import java.sql.NClob;
import java.sql.PreparedStatement;
import java.sql.Ref;
import java.sql.RowId;
import java.sql.SQLException;
import java.sql.SQLType;
import java.sql.SQLXML;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Calendar;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The values for the question marks of a statement. A text stands for a value of any type that its
 * place asks for.
 */
abstract class ParameterValues extends LakeStatement implements PreparedStatement {
  private final @Nullable Object[] values;
  private final boolean[] given;

  ParameterValues(LakeConnection connection, int count) {
    super(connection);
    this.values = new Object[count];
    this.given = new boolean[count];
  }

  final int count() {
    return values.length;
  }

  /** All values, each of which has been set. */
  final List<@Nullable Object> all() throws SQLException {
    List<@Nullable Object> all = new ArrayList<>(values.length);
    for (int i = 0; i < values.length; i++) {
      if (!given[i]) {
        throw SqlErrors.of(
            SqlErrors.PARAMETER,
            "Parameter %d of %d has no value. Set it before the statement is executed."
                .formatted(i + 1, values.length));
      }
      all.add(values[i]);
    }
    return all;
  }

  private void set(int index, @Nullable Object value) throws SQLException {
    checkOpen();
    if (index < 1 || index > values.length) {
      throw SqlErrors.of(
          SqlErrors.PARAMETER,
          values.length == 0
              ? "The statement has no parameters."
              : "There is no parameter %d; the statement has the parameters 1 to %d."
                  .formatted(index, values.length));
    }
    values[index - 1] = value;
    given[index - 1] = true;
  }

  @Override
  public final void clearParameters() throws SQLException {
    checkOpen();
    for (int i = 0; i < values.length; i++) {
      values[i] = null;
      given[i] = false;
    }
  }

  @Override
  public final void setNull(int index, int type) throws SQLException {
    set(index, null);
  }

  @Override
  public final void setNull(int index, int type, String name) throws SQLException {
    set(index, null);
  }

  @Override
  public final void setBoolean(int index, boolean value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setByte(int index, byte value) throws SQLException {
    set(index, (int) value);
  }

  @Override
  public final void setShort(int index, short value) throws SQLException {
    set(index, (int) value);
  }

  @Override
  public final void setInt(int index, int value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setLong(int index, long value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setFloat(int index, float value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setDouble(int index, double value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setBigDecimal(int index, @Nullable BigDecimal value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setString(int index, @Nullable String value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setNString(int index, @Nullable String value) throws SQLException {
    set(index, value);
  }

  @Override
  public final void setBytes(int index, byte @Nullable [] value) throws SQLException {
    set(index, value == null ? null : value.clone());
  }

  @Override
  public final void setDate(int index, @Nullable Date value) throws SQLException {
    setDate(index, value, null);
  }

  @Override
  public final void setTime(int index, @Nullable Time value) throws SQLException {
    setTime(index, value, null);
  }

  @Override
  public final void setTimestamp(int index, @Nullable Timestamp value) throws SQLException {
    setTimestamp(index, value, null);
  }

  @Override
  public final void setDate(int index, @Nullable Date value, @Nullable Calendar calendar)
      throws SQLException {
    set(
        index,
        value == null ? null : (LocalDate) at(value, calendar).as(org.ysteron.data.Types.DATE));
  }

  @Override
  public final void setTime(int index, @Nullable Time value, @Nullable Calendar calendar)
      throws SQLException {
    set(
        index,
        value == null ? null : (LocalTime) at(value, calendar).as(org.ysteron.data.Types.TIME));
  }

  @SuppressWarnings("JavaUtilDate") // what JDBC's dates and times have in common
  private static TimeParameter at(java.util.Date value, @Nullable Calendar calendar) {
    return TimeParameter.of(new Timestamp(value.getTime()), calendar);
  }

  @Override
  public final void setTimestamp(int index, @Nullable Timestamp value, @Nullable Calendar calendar)
      throws SQLException {
    set(index, value == null ? null : TimeParameter.of(value, calendar));
  }

  @Override
  public final void setObject(int index, @Nullable Object value) throws SQLException {
    if (value instanceof InputStream stream) {
      setBinaryStream(index, stream);
    } else if (value instanceof Reader reader) {
      setCharacterStream(index, reader);
    } else if (value instanceof Blob blob) {
      setBlob(index, blob);
    } else if (value instanceof Clob clob) {
      setClob(index, clob);
    } else {
      set(index, JavaValues.given(value));
    }
  }

  @Override
  public final void setObject(int index, @Nullable Object value, int type) throws SQLException {
    setObject(index, value);
  }

  @Override
  public final void setObject(int index, @Nullable Object value, int type, int length)
      throws SQLException {
    setObject(index, value);
  }

  @Override
  public final void setObject(int index, @Nullable Object value, SQLType type) throws SQLException {
    setObject(index, value);
  }

  @Override
  public final void setObject(int index, @Nullable Object value, SQLType type, int length)
      throws SQLException {
    setObject(index, value);
  }

  @Override
  public final void setArray(int index, @Nullable Array value) throws SQLException {
    set(index, JavaValues.given(value));
  }

  private void setBytes(int index, @Nullable InputStream stream, long length) throws SQLException {
    try {
      set(index, stream == null ? null : bytes(stream, length));
    } catch (IOException e) {
      throw unread(e);
    }
  }

  private static byte[] bytes(InputStream stream, long length) throws IOException {
    return length < 0
        ? stream.readAllBytes()
        : stream.readNBytes((int) Math.min(Integer.MAX_VALUE, length));
  }

  private void setText(int index, @Nullable InputStream stream, long length, Charset charset)
      throws SQLException {
    try {
      set(index, stream == null ? null : new String(bytes(stream, length), charset));
    } catch (IOException e) {
      throw unread(e);
    }
  }

  private void setText(int index, @Nullable Reader reader, long length) throws SQLException {
    try {
      if (reader == null) {
        set(index, null);
        return;
      }
      StringWriter text = new StringWriter();
      reader.transferTo(text);
      String all = text.toString();
      set(index, length < 0 || length >= all.length() ? all : all.substring(0, (int) length));
    } catch (IOException e) {
      throw unread(e);
    }
  }

  private static SQLException unread(IOException e) {
    return SqlErrors.of(
        SqlErrors.DATA, "The stream of a parameter cannot be read: " + e.getMessage(), e);
  }

  @Override
  public final void setAsciiStream(int index, @Nullable InputStream value, int length)
      throws SQLException {
    setText(index, value, length, StandardCharsets.US_ASCII);
  }

  @Override
  @Deprecated
  public final void setUnicodeStream(int index, @Nullable InputStream value, int length)
      throws SQLException {
    setText(index, value, length, StandardCharsets.UTF_8);
  }

  @Override
  public final void setBinaryStream(int index, @Nullable InputStream value, int length)
      throws SQLException {
    setBytes(index, value, length);
  }

  @Override
  public final void setCharacterStream(int index, @Nullable Reader value, int length)
      throws SQLException {
    setText(index, value, length);
  }

  @Override
  public final void setAsciiStream(int index, @Nullable InputStream value, long length)
      throws SQLException {
    setText(index, value, length, StandardCharsets.US_ASCII);
  }

  @Override
  public final void setBinaryStream(int index, @Nullable InputStream value, long length)
      throws SQLException {
    setBytes(index, value, length);
  }

  @Override
  public final void setCharacterStream(int index, @Nullable Reader value, long length)
      throws SQLException {
    setText(index, value, length);
  }

  @Override
  public final void setAsciiStream(int index, @Nullable InputStream value) throws SQLException {
    setText(index, value, -1, StandardCharsets.US_ASCII);
  }

  @Override
  public final void setBinaryStream(int index, @Nullable InputStream value) throws SQLException {
    setBytes(index, value, -1);
  }

  @Override
  public final void setCharacterStream(int index, @Nullable Reader value) throws SQLException {
    setText(index, value, -1);
  }

  @Override
  public final void setNCharacterStream(int index, @Nullable Reader value, long length)
      throws SQLException {
    setText(index, value, length);
  }

  @Override
  public final void setNCharacterStream(int index, @Nullable Reader value) throws SQLException {
    setText(index, value, -1);
  }

  @Override
  public final void setBlob(int index, @Nullable Blob value) throws SQLException {
    setBytes(index, value == null ? null : value.getBinaryStream(), -1);
  }

  @Override
  public final void setBlob(int index, @Nullable InputStream value, long length)
      throws SQLException {
    setBytes(index, value, length);
  }

  @Override
  public final void setBlob(int index, @Nullable InputStream value) throws SQLException {
    setBytes(index, value, -1);
  }

  @Override
  public final void setClob(int index, @Nullable Clob value) throws SQLException {
    setText(index, value == null ? null : value.getCharacterStream(), -1);
  }

  @Override
  public final void setClob(int index, @Nullable Reader value, long length) throws SQLException {
    setText(index, value, length);
  }

  @Override
  public final void setClob(int index, @Nullable Reader value) throws SQLException {
    setText(index, value, -1);
  }

  @Override
  public final void setNClob(int index, @Nullable NClob value) throws SQLException {
    setClob(index, value);
  }

  @Override
  public final void setNClob(int index, @Nullable Reader value, long length) throws SQLException {
    setText(index, value, length);
  }

  @Override
  public final void setNClob(int index, @Nullable Reader value) throws SQLException {
    setText(index, value, -1);
  }

  @Override
  public final void setURL(int index, @Nullable URL value) throws SQLException {
    set(index, value == null ? null : value.toString());
  }

  @Override
  public final void setRef(int index, Ref value) throws SQLException {
    throw SqlErrors.unsupported("references");
  }

  @Override
  public final void setRowId(int index, RowId value) throws SQLException {
    throw SqlErrors.unsupported("row IDs");
  }

  @Override
  public final void setSQLXML(int index, SQLXML value) throws SQLException {
    throw SqlErrors.unsupported("XML");
  }
}
