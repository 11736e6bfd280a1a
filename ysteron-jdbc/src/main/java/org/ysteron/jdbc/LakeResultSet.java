package org.ysteron.jdbc;

import java.math.BigDecimal;
import java.sql.Array;
import java.sql.Date;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.SQLWarning;
import java.sql.Statement;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Calendar;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Query;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.text.NearNames;

/**
 * The rows of a query, read batch by batch while the client goes through them. For one thread at a
 * time.
 */
final class LakeResultSet extends LabelledResultSet {
  private final @Nullable LakeStatement statement;
  private final List<String> labels;
  private final Schema columns;
  private final Results<Batch> batches;
  private final long most;
  private final long until;
  private final JavaValues values;
  private final Map<String, Integer> numbers = new HashMap<>();
  private Vector[] vectors = {};
  private int size;
  private int at;
  private long row;
  private boolean ended;
  private boolean wasNull;
  private boolean closed;

  /**
   * The rows of a query.
   *
   * @param mostRows as many are given at most; 0 for all
   * @param until when reading has to end
   */
  LakeResultSet(LakeStatement statement, Query query, long mostRows, long until) {
    this(statement, query.schema(), query.labels(), query.batches(), mostRows, until);
  }

  private LakeResultSet(
      @Nullable LakeStatement statement,
      Schema columns,
      List<String> labels,
      Results<Batch> batches,
      long mostRows,
      long until) {
    this.statement = statement;
    this.columns = columns;
    this.labels = labels;
    this.batches = batches;
    this.most = mostRows == 0 ? Long.MAX_VALUE : mostRows;
    this.until = until;
    ZoneId zone = statement == null ? ZoneOffset.UTC : statement.connection().zone();
    this.values = new JavaValues(zone);
    for (int c = labels.size() - 1; c >= 0; c--) {
      numbers.put(labels.get(c).toLowerCase(Locale.ROOT), c + 1);
    }
    for (int c = labels.size() - 1; c >= 0; c--) {
      numbers.put(labels.get(c), c + 1); // the same case counts more
    }
  }

  /** Rows that are made in memory; {@code statement}: what they belong to, if anything. */
  static LakeResultSet made(
      @Nullable LakeStatement statement,
      Schema columns,
      List<String> labels,
      Results<Batch> batches) {
    return new LakeResultSet(statement, columns, labels, batches, 0, Long.MAX_VALUE);
  }

  private void checkOpen() throws SQLException {
    if (closed) {
      throw SqlErrors.of(
          SqlErrors.STATE,
          "The result is closed: it, its statement or its connection was closed, its statement was executed again, or its transaction has ended.");
    }
  }

  @Override
  public boolean next() throws SQLException {
    if (at + 1 < size && row < most) {
      at++;
      row++;
      return true;
    }
    checkOpen();
    return !ended && advance();
  }

  private boolean advance() throws SQLException {
    if (row >= most || !fetched()) {
      ended = true;
      size = 0;
      at = -1;
      batches.close();
      return false;
    }
    at = 0;
    row++;
    return true;
  }

  private boolean fetched() throws SQLException {
    LakeStatement of = statement;
    Optional<Batch> batch =
        of == null ? nextBatch() : of.connection().doing(of, until, this::nextBatch);
    if (batch.isEmpty()) {
      return false;
    }
    vectors = batch.get().vectors().toArray(Vector[]::new);
    size = batch.get().size();
    return true;
  }

  /** The next batch that has rows. */
  private Optional<Batch> nextBatch() {
    Optional<Batch> batch = batches.next();
    while (batch.isPresent() && batch.get().size() == 0) {
      batch = batches.next();
    }
    return batch;
  }

  /** Closes it with its statement. */
  void end() {
    if (!closed) {
      closed = true;
      size = 0;
      at = -1;
      batches.close();
    }
  }

  @Override
  public void close() throws SQLException {
    if (!closed) {
      end();
      if (statement != null) {
        statement.resultClosed();
      }
    }
  }

  @Override
  public boolean isClosed() {
    return closed;
  }

  @Override
  public boolean wasNull() throws SQLException {
    checkOpen();
    return wasNull;
  }

  /** The vector of a column, and whether its value is null is remembered. */
  private @Nullable Vector vector(int index) throws SQLException {
    if (at < 0 || size == 0) {
      checkOpen();
      throw SqlErrors.of(
          SqlErrors.STATE,
          ended
              ? "There are no more rows; next() has returned false."
              : "There is no row yet. Call next() first.");
    }
    if (index < 1 || index > vectors.length) {
      throw SqlErrors.of(
          SqlErrors.PARAMETER,
          "There is no column %d; the result has the columns 1 to %d."
              .formatted(index, vectors.length));
    }
    Vector vector = vectors[index - 1];
    wasNull = vector.isNull(at);
    return wasNull ? null : vector;
  }

  private @Nullable Object value(int index) throws SQLException {
    Vector vector = vector(index);
    return vector == null ? null : vector.present(at);
  }

  private Type type(int index) {
    return columns.columns().get(index - 1).type();
  }

  private long whole(int index, long least, long most, String as) throws SQLException {
    Vector vector = vector(index);
    if (vector == null) {
      return 0;
    }
    if (vector instanceof Vector.OfLong of && of.type() == Types.BIGINT) {
      long number = of.values()[at];
      if (number >= least && number <= most) {
        return number;
      }
    } else if (vector instanceof Vector.OfInt of && of.type() == Types.INTEGER) {
      int number = of.values()[at];
      if (number >= least && number <= most) {
        return number;
      }
    }
    return JavaValues.whole(vector.present(at), least, most, as);
  }

  @Override
  public long getLong(int index) throws SQLException {
    return whole(index, Long.MIN_VALUE, Long.MAX_VALUE, "a long");
  }

  @Override
  public int getInt(int index) throws SQLException {
    return (int) whole(index, Integer.MIN_VALUE, Integer.MAX_VALUE, "an int");
  }

  @Override
  public short getShort(int index) throws SQLException {
    return (short) whole(index, Short.MIN_VALUE, Short.MAX_VALUE, "a short");
  }

  @Override
  public byte getByte(int index) throws SQLException {
    return (byte) whole(index, Byte.MIN_VALUE, Byte.MAX_VALUE, "a byte");
  }

  @Override
  public double getDouble(int index) throws SQLException {
    Vector vector = vector(index);
    if (vector == null) {
      return 0;
    }
    return vector instanceof Vector.OfDouble of
        ? of.values()[at]
        : JavaValues.floating(vector.present(at));
  }

  @Override
  public float getFloat(int index) throws SQLException {
    return (float) getDouble(index);
  }

  @Override
  public boolean getBoolean(int index) throws SQLException {
    Object value = value(index);
    return value != null && JavaValues.truth(value);
  }

  @Override
  public @Nullable String getString(int index) throws SQLException {
    Object value = value(index);
    return value == null || value instanceof String
        ? (String) value
        : values.text(value, type(index));
  }

  @Override
  public @Nullable BigDecimal getBigDecimal(int index) throws SQLException {
    Object value = value(index);
    return value == null ? null : JavaValues.decimal(value, "a number");
  }

  @Override
  @Deprecated
  public @Nullable BigDecimal getBigDecimal(int index, int scale) throws SQLException {
    Object value = value(index);
    return value == null ? null : JavaValues.decimal(value, scale);
  }

  @Override
  public byte @Nullable [] getBytes(int index) throws SQLException {
    Object value = value(index);
    return value == null ? null : JavaValues.bytes(value);
  }

  @Override
  public @Nullable Date getDate(int index, @Nullable Calendar calendar) throws SQLException {
    Object value = value(index);
    return value == null ? null : values.sqlDate(value, calendar);
  }

  @Override
  public @Nullable Time getTime(int index, @Nullable Calendar calendar) throws SQLException {
    Object value = value(index);
    return value == null ? null : values.sqlTime(value, calendar);
  }

  @Override
  public @Nullable Timestamp getTimestamp(int index, @Nullable Calendar calendar)
      throws SQLException {
    Object value = value(index);
    return value == null ? null : values.timestamp(value, calendar);
  }

  @Override
  public @Nullable Object getObject(int index) throws SQLException {
    Object value = value(index);
    return value == null ? null : values.standard(value, type(index));
  }

  @Override
  public <T> @Nullable T getObject(int index, Class<T> wanted) throws SQLException {
    Object value = value(index);
    return value == null ? null : values.as(value, type(index), wanted);
  }

  @Override
  public @Nullable Array getArray(int index) throws SQLException {
    return getObject(index, Array.class);
  }

  @Override
  public int findColumn(String label) throws SQLException {
    checkOpen();
    Integer number = numbers.get(label);
    number = number == null ? numbers.get(label.toLowerCase(Locale.ROOT)) : number;
    if (number == null) {
      throw SqlErrors.of(
          SqlErrors.NO_COLUMN,
          "The result has no column %s.%s".formatted(label, NearNames.didYouMean(label, labels)));
    }
    return number;
  }

  @Override
  public ResultSetMetaData getMetaData() throws SQLException {
    checkOpen();
    return new ResultMetaData(columns, labels);
  }

  @Override
  public boolean isBeforeFirst() throws SQLException {
    checkOpen();
    return row == 0 && !ended;
  }

  @Override
  public boolean isAfterLast() throws SQLException {
    checkOpen();
    return ended && row > 0;
  }

  @Override
  public boolean isFirst() throws SQLException {
    checkOpen();
    return row == 1 && !ended;
  }

  @Override
  public boolean isLast() throws SQLException {
    throw SqlErrors.unsupported("whether a row is the last one; call next()");
  }

  @Override
  public int getRow() throws SQLException {
    checkOpen();
    return ended ? 0 : LakeStatement.limited(row);
  }

  @Override
  public @Nullable SQLWarning getWarnings() throws SQLException {
    checkOpen();
    return null;
  }

  @Override
  public void clearWarnings() throws SQLException {
    checkOpen();
  }

  @Override
  public String getCursorName() throws SQLException {
    throw SqlErrors.unsupported("names of cursors");
  }

  @Override
  public void setFetchDirection(int direction) throws SQLException {
    checkOpen();
    if (direction != FETCH_FORWARD) {
      throw SqlErrors.unsupported("results that are read in other directions than forward");
    }
  }

  @Override
  public int getFetchDirection() throws SQLException {
    checkOpen();
    return FETCH_FORWARD;
  }

  @Override
  public void setFetchSize(int rows) throws SQLException {
    checkOpen(); // batches have the size that the query gives them
  }

  @Override
  public int getFetchSize() throws SQLException {
    checkOpen();
    return statement == null ? 0 : statement.getFetchSize();
  }

  @Override
  public int getType() throws SQLException {
    checkOpen();
    return ResultSet.TYPE_FORWARD_ONLY;
  }

  @Override
  public int getConcurrency() throws SQLException {
    checkOpen();
    return ResultSet.CONCUR_READ_ONLY;
  }

  @Override
  public int getHoldability() throws SQLException {
    checkOpen();
    return ResultSet.CLOSE_CURSORS_AT_COMMIT;
  }

  @Override
  public boolean rowUpdated() {
    return false;
  }

  @Override
  public boolean rowInserted() {
    return false;
  }

  @Override
  public boolean rowDeleted() {
    return false;
  }

  @Override
  public @Nullable Statement getStatement() throws SQLException {
    checkOpen();
    return statement;
  }
}
