package org.ysteron.jdbc;

import java.sql.BatchUpdateException;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLWarning;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.YsteronException;
import org.ysteron.sql.SqlBatchException;
import org.ysteron.sql.SqlResult;

/** A statement of a connection, with the result that it gave last. For one thread at a time. */
class LakeStatement extends Unwrapped implements Statement {
  private final LakeConnection connection;
  private final List<String> batch = new ArrayList<>();
  private @Nullable LakeResultSet result;
  private long updated = -1;
  private long mostRows;
  private int fetchSize;
  private int timeout;
  private boolean closesWithResult;
  private boolean poolable;
  private volatile boolean closed;

  LakeStatement(LakeConnection connection) {
    this.connection = connection;
  }

  /** Refuses generated keys, which there are none of. */
  static void refuseKeys(int keys) throws SQLException {
    if (keys == RETURN_GENERATED_KEYS) {
      throw SqlErrors.unsupported("generated keys");
    }
  }

  final LakeConnection connection() {
    return connection;
  }

  final void checkOpen() throws SQLException {
    if (closed) {
      throw SqlErrors.of(SqlErrors.CLOSED, "The statement is closed. Create another one.");
    }
  }

  /** When what begins now has to end. */
  final long until() {
    return timeout == 0 ? Long.MAX_VALUE : System.nanoTime() + TimeUnit.SECONDS.toNanos(timeout);
  }

  /** Executes SQL; whether it gave rows. */
  final boolean run(String sql, List<@Nullable Object> parameters) throws SQLException {
    checkOpen();
    closeResult();
    updated = -1;
    connection.running().begins(this);
    long until = until();
    return connection.doing(
        this,
        until,
        () -> {
          SqlResult given = connection.execute(sql, parameters);
          if (given instanceof SqlResult.Rows rows) {
            result = new LakeResultSet(this, rows.query(), mostRows, until);
            return true;
          }
          updated = given instanceof SqlResult.Changed changed ? changed.rows() : 0;
          return false;
        });
  }

  final ResultSet rows(String sql, List<@Nullable Object> parameters) throws SQLException {
    if (!run(sql, parameters) || result == null) {
      throw SqlErrors.of(
          SqlErrors.GENERAL, "The statement gave no rows; it was executed. Use executeUpdate.");
    }
    return result;
  }

  final long update(String sql, List<@Nullable Object> parameters) throws SQLException {
    if (run(sql, parameters)) {
      closeResult();
      throw SqlErrors.of(
          SqlErrors.GENERAL, "The statement is a query; no row was read. Use executeQuery.");
    }
    return updated;
  }

  /** Executes a batch; all or none. */
  final long[] batch(int size, Running.Work<long[]> work) throws SQLException {
    checkOpen();
    closeResult();
    updated = -1;
    connection.running().begins(this);
    try {
      return size == 0 ? new long[0] : connection.doing(this, until(), work);
    } catch (SQLException e) {
      int[] counts = new int[size];
      Arrays.fill(counts, EXECUTE_FAILED);
      throw failed(e, counts);
    }
  }

  private static BatchUpdateException failed(SQLException e, int[] counts) {
    boolean told = e.getCause() instanceof SqlBatchException;
    String message =
        told ? e.getMessage() : "The batch failed, and nothing of it was done: " + e.getMessage();
    return new BatchUpdateException(message, e.getSQLState(), e.getErrorCode(), counts, e);
  }

  final void closeResult() {
    LakeResultSet open = result;
    result = null;
    if (open != null) {
      open.end();
    }
  }

  /** A result of this was closed. */
  final void resultClosed() {
    if (closesWithResult && !closed) {
      end();
      connection.forget(this);
    }
  }

  final void end() {
    closed = true;
    try {
      closeResult();
    } catch (YsteronException e) {
      // its files are gone with the process
    }
  }

  @Override
  public ResultSet executeQuery(String sql) throws SQLException {
    return rows(sql, List.of());
  }

  @Override
  public long executeLargeUpdate(String sql) throws SQLException {
    return update(sql, List.of());
  }

  @Override
  public int executeUpdate(String sql) throws SQLException {
    return limited(executeLargeUpdate(sql));
  }

  static int limited(long count) {
    return (int) Math.min(Integer.MAX_VALUE, count);
  }

  @Override
  public boolean execute(String sql) throws SQLException {
    return run(sql, List.of());
  }

  @Override
  public void close() throws SQLException {
    if (!closed) {
      end();
      connection.forget(this);
    }
  }

  @Override
  public int getMaxFieldSize() throws SQLException {
    checkOpen();
    return 0;
  }

  @Override
  public void setMaxFieldSize(int max) throws SQLException {
    checkOpen(); // values are never cut
  }

  @Override
  public int getMaxRows() throws SQLException {
    return limited(getLargeMaxRows());
  }

  @Override
  public long getLargeMaxRows() throws SQLException {
    checkOpen();
    return mostRows;
  }

  @Override
  public void setMaxRows(int max) throws SQLException {
    setLargeMaxRows(max);
  }

  @Override
  public void setLargeMaxRows(long max) throws SQLException {
    checkOpen();
    mostRows = notNegative(max);
  }

  private static long notNegative(long number) throws SQLException {
    if (number < 0) {
      throw SqlErrors.of(SqlErrors.DATA, "%d is negative; give 0 or more.".formatted(number));
    }
    return number;
  }

  @Override
  public void setEscapeProcessing(boolean enable) throws SQLException {
    checkOpen();
  }

  @Override
  public int getQueryTimeout() throws SQLException {
    checkOpen();
    return timeout;
  }

  @Override
  public void setQueryTimeout(int seconds) throws SQLException {
    checkOpen();
    timeout = (int) notNegative(seconds);
  }

  @Override
  public void cancel() throws SQLException {
    checkOpen();
    connection.running().cancel(this);
  }

  /** Whether rows of it may still be read. */
  final boolean isReading() {
    LakeResultSet open = result;
    return open != null && !open.isClosed();
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
  public void setCursorName(String name) throws SQLException {
    checkOpen(); // without positioned updates this has no meaning, and JDBC has it be ignored
  }

  @Override
  public @Nullable ResultSet getResultSet() throws SQLException {
    checkOpen();
    return result;
  }

  @Override
  public int getUpdateCount() throws SQLException {
    return limited(getLargeUpdateCount());
  }

  @Override
  public long getLargeUpdateCount() throws SQLException {
    checkOpen();
    return updated;
  }

  @Override
  public boolean getMoreResults() throws SQLException {
    return getMoreResults(CLOSE_CURRENT_RESULT);
  }

  @Override
  public boolean getMoreResults(int current) throws SQLException {
    checkOpen();
    if (current == CLOSE_CURRENT_RESULT || current == CLOSE_ALL_RESULTS) {
      closeResult();
    }
    updated = -1;
    return false;
  }

  @Override
  public void setFetchDirection(int direction) throws SQLException {
    checkOpen();
    if (direction != ResultSet.FETCH_FORWARD) {
      throw SqlErrors.unsupported("results that are read in other directions than forward");
    }
  }

  @Override
  public int getFetchDirection() throws SQLException {
    checkOpen();
    return ResultSet.FETCH_FORWARD;
  }

  @Override
  public void setFetchSize(int rows) throws SQLException {
    checkOpen();
    fetchSize = (int) notNegative(rows);
  }

  @Override
  public int getFetchSize() throws SQLException {
    checkOpen();
    return fetchSize;
  }

  @Override
  public int getResultSetConcurrency() throws SQLException {
    checkOpen();
    return ResultSet.CONCUR_READ_ONLY;
  }

  @Override
  public int getResultSetType() throws SQLException {
    checkOpen();
    return ResultSet.TYPE_FORWARD_ONLY;
  }

  @Override
  public void addBatch(String sql) throws SQLException {
    checkOpen();
    batch.add(sql);
  }

  @Override
  public void clearBatch() throws SQLException {
    checkOpen();
    batch.clear();
  }

  @Override
  public int[] executeBatch() throws SQLException {
    return Arrays.stream(executeLargeBatch()).mapToInt(LakeStatement::limited).toArray();
  }

  @Override
  public long[] executeLargeBatch() throws SQLException {
    List<String> all = List.copyOf(batch);
    batch.clear();
    return batch(all.size(), () -> connection.executeBatch(all));
  }

  @Override
  public Connection getConnection() throws SQLException {
    checkOpen();
    return connection;
  }

  @Override
  public ResultSet getGeneratedKeys() throws SQLException {
    checkOpen();
    return new MadeRows("generated_key BIGINT").result(this);
  }

  @Override
  public int executeUpdate(String sql, int keys) throws SQLException {
    refuseKeys(keys);
    return executeUpdate(sql);
  }

  @Override
  public int executeUpdate(String sql, int[] columns) throws SQLException {
    throw SqlErrors.unsupported("generated keys");
  }

  @Override
  public int executeUpdate(String sql, String[] columns) throws SQLException {
    throw SqlErrors.unsupported("generated keys");
  }

  @Override
  public boolean execute(String sql, int keys) throws SQLException {
    refuseKeys(keys);
    return execute(sql);
  }

  @Override
  public boolean execute(String sql, int[] columns) throws SQLException {
    throw SqlErrors.unsupported("generated keys");
  }

  @Override
  public boolean execute(String sql, String[] columns) throws SQLException {
    throw SqlErrors.unsupported("generated keys");
  }

  @Override
  public int getResultSetHoldability() throws SQLException {
    checkOpen();
    return ResultSet.CLOSE_CURSORS_AT_COMMIT;
  }

  @Override
  public boolean isClosed() {
    return closed;
  }

  @Override
  public void setPoolable(boolean pools) throws SQLException {
    checkOpen();
    poolable = pools;
  }

  @Override
  public boolean isPoolable() throws SQLException {
    checkOpen();
    return poolable;
  }

  @Override
  public void closeOnCompletion() throws SQLException {
    checkOpen();
    closesWithResult = true;
  }

  @Override
  public boolean isCloseOnCompletion() throws SQLException {
    checkOpen();
    return closesWithResult;
  }
}
