package org.ysteron.jdbc;

import java.sql.Array;
import java.sql.DatabaseMetaData;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLWarning;
import java.sql.Statement;
import java.sql.Struct;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.Set;
import java.util.concurrent.Executor;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.data.Query;
import org.ysteron.error.YsteronException;
import org.ysteron.option.Isolation;
import org.ysteron.sql.SqlResult;
import org.ysteron.sql.SqlSession;

/**
 * A connection to a lake. Several to one lake share what the process knows of it. With auto-commit
 * each statement, and each batch, is a commit of its own; otherwise the first statement starts a
 * transaction. Results that are open when a transaction ends are closed. For one thread at a time;
 * {@link Statement#cancel} and {@link #abort} may come from others.
 */
final class LakeConnection extends UnsupportedConnection {
  private final ConnectionSettings settings;
  private final SharedLakes.Use use;
  private final SqlSession session;
  private final Running running = new Running();
  private final Set<LakeStatement> statements = Collections.newSetFromMap(new IdentityHashMap<>());
  private volatile boolean closed;
  private boolean autoCommit = true;
  private long networkMillis;

  LakeConnection(ConnectionSettings settings) throws SQLException {
    this.settings = settings;
    this.use = opened(settings);
    try {
      LakeHandle lake = use.lake().watchedBy(running);
      Optional<String> author = settings.author();
      lake = author.isPresent() ? lake.by(author.get(), "ysteron-jdbc") : lake;
      this.session = new SqlSession(lake);
      session.setSchema(settings.schema());
      session.setIsolation(settings.isolation());
      session.setReadOnly(settings.readOnly());
      Optional<String> point = settings.setPoint();
      if (point.isPresent()) {
        running.doing(null, Long.MAX_VALUE, () -> session.execute(point.get(), List.of()));
      }
    } catch (SQLException | RuntimeException e) {
      use.end();
      throw e;
    }
  }

  private static SharedLakes.Use opened(ConnectionSettings settings) throws SQLException {
    try {
      return SharedLakes.use(settings.location(), settings.memory());
    } catch (YsteronException e) {
      throw SqlErrors.of(SqlErrors.WRONG_CONNECTION, String.valueOf(e.getMessage()), e);
    } catch (java.nio.file.InvalidPathException e) {
      throw SqlErrors.of(SqlErrors.WRONG_CONNECTION, "There is no lake: " + e.getMessage(), e);
    }
  }

  ConnectionSettings settings() {
    return settings;
  }

  ZoneId zone() {
    return settings.zone();
  }

  Running running() {
    return running;
  }

  private void checkOpen() throws SQLException {
    if (closed) {
      throw SqlErrors.of(SqlErrors.CLOSED, "The connection is closed. Open another one.");
    }
  }

  /** Does work that needs the connection. */
  <T extends @Nullable Object> T doing(
      @Nullable LakeStatement statement, long until, Running.Work<T> work) throws SQLException {
    checkOpen();
    return running.doing(statement, until(until), work);
  }

  <T extends @Nullable Object> T doing(Running.Work<T> work) throws SQLException {
    return doing(null, Long.MAX_VALUE, work);
  }

  private interface Action {
    void run() throws SQLException;
  }

  private void act(Action action) throws SQLException {
    doing(
        () -> {
          action.run();
          return true;
        });
  }

  private long until(long asked) {
    return networkMillis == 0
        ? asked
        : Math.min(asked, System.nanoTime() + TimeUnit.MILLISECONDS.toNanos(networkMillis));
  }

  /** Executes a statement, in a transaction unless each statement is a commit of its own. */
  SqlResult execute(String sql, List<@Nullable Object> parameters) {
    begin();
    boolean was = session.inTransaction();
    try {
      return session.execute(sql, parameters);
    } finally {
      if (was && !session.inTransaction()) {
        closeResults();
      }
    }
  }

  /** Executes a statement for several sets of values, all or none. */
  long[] executeBatch(String sql, List<List<@Nullable Object>> sets) {
    begin();
    return session.executeBatch(sql, sets);
  }

  /** Executes statements, all or none. */
  long[] executeBatch(List<String> batch) {
    begin();
    long[] counts = new long[batch.size()];
    session.inOneCommit(
        batch.size(),
        number -> {
          SqlResult result = session.execute(batch.get(number), List.of());
          if (result instanceof SqlResult.Rows) {
            throw new org.ysteron.error.InvalidInputException(
                "A query cannot be in a batch. Use executeQuery.");
          }
          counts[number] = result instanceof SqlResult.Changed changed ? changed.rows() : 0;
        });
    return counts;
  }

  /** The query that SQL is, which is not run; empty when it is none. */
  Optional<Query> described(String sql, List<@Nullable Object> parameters) {
    return session.described(sql, parameters);
  }

  private void begin() {
    if (!autoCommit && !session.inTransaction()) {
      session.start(session.isolation());
    }
  }

  /** The lake as statements see it. */
  LakeView seen() {
    begin();
    return session.seen();
  }

  /** Remembers a statement, to be closed with the connection. */
  <S extends LakeStatement> S opened(S statement) throws SQLException {
    checkOpen();
    synchronized (statements) {
      statements.add(statement);
    }
    return statement;
  }

  void forget(LakeStatement statement) {
    synchronized (statements) {
      statements.remove(statement);
    }
  }

  private List<LakeStatement> statements() {
    synchronized (statements) {
      return List.copyOf(statements);
    }
  }

  private void closeResults() {
    statements().forEach(LakeStatement::closeResult);
  }

  private static void forward(int type, int concurrency) throws SQLException {
    if (type != ResultSet.TYPE_FORWARD_ONLY || concurrency != ResultSet.CONCUR_READ_ONLY) {
      throw SqlErrors.unsupported("results that are not forward only and read only");
    }
  }

  @Override
  public Statement createStatement() throws SQLException {
    return opened(new LakeStatement(this));
  }

  @Override
  public Statement createStatement(int type, int concurrency) throws SQLException {
    forward(type, concurrency);
    return createStatement();
  }

  @Override
  public Statement createStatement(int type, int concurrency, int holdability) throws SQLException {
    return createStatement(type, concurrency);
  }

  @Override
  public PreparedStatement prepareStatement(String sql) throws SQLException {
    return opened(new LakePreparedStatement(this, sql));
  }

  @Override
  public PreparedStatement prepareStatement(String sql, int type, int concurrency)
      throws SQLException {
    forward(type, concurrency);
    return prepareStatement(sql);
  }

  @Override
  public PreparedStatement prepareStatement(String sql, int type, int concurrency, int holdability)
      throws SQLException {
    return prepareStatement(sql, type, concurrency);
  }

  @Override
  public PreparedStatement prepareStatement(String sql, int keys) throws SQLException {
    LakeStatement.refuseKeys(keys);
    return prepareStatement(sql);
  }

  @Override
  public String nativeSQL(String sql) throws SQLException {
    checkOpen();
    return sql;
  }

  @Override
  public void setAutoCommit(boolean each) throws SQLException {
    act(
        () -> {
          if (each && !autoCommit && session.inTransaction()) {
            ending(() -> session.commit(""));
          }
          autoCommit = each;
        });
  }

  @Override
  public boolean getAutoCommit() throws SQLException {
    checkOpen();
    return autoCommit;
  }

  private void ending(Runnable how) {
    try {
      how.run();
    } finally {
      closeResults();
    }
  }

  private void refuseWhenEach(String how) throws SQLException {
    if (autoCommit && !session.inTransaction()) {
      throw SqlErrors.of(
          SqlErrors.TRANSACTION,
          "There is nothing to %s: each statement is a commit of its own. Call setAutoCommit(false) first."
              .formatted(how));
    }
  }

  @Override
  public void commit() throws SQLException {
    act(
        () -> {
          refuseWhenEach("commit");
          if (session.inTransaction()) {
            ending(() -> session.commit(""));
          }
        });
  }

  @Override
  public void rollback() throws SQLException {
    act(
        () -> {
          refuseWhenEach("roll back");
          if (session.inTransaction()) {
            ending(session::rollback);
          }
        });
  }

  @Override
  public void close() throws SQLException {
    if (closed) {
      return;
    }
    running.doing(
        null,
        Long.MAX_VALUE,
        () -> {
          closed = true;
          end();
          return true;
        });
  }

  private void end() {
    try {
      statements().forEach(LakeStatement::end);
      session.close();
    } finally {
      use.end();
    }
  }

  @Override
  public boolean isClosed() {
    return closed;
  }

  @Override
  public DatabaseMetaData getMetaData() throws SQLException {
    checkOpen();
    return new LakeMetaData(this);
  }

  @Override
  public void setReadOnly(boolean only) throws SQLException {
    act(
        () -> {
          if (session.inTransaction()) {
            throw SqlErrors.of(
                SqlErrors.TRANSACTION, "Commit or roll back before setReadOnly is called.");
          }
          session.setReadOnly(only || settings.readOnly());
        });
  }

  @Override
  public boolean isReadOnly() throws SQLException {
    checkOpen();
    return session.isReadOnly();
  }

  @Override
  public void setCatalog(@Nullable String catalog) throws SQLException {
    checkOpen(); // there are no catalogs, and JDBC has such calls ignored
  }

  @Override
  public @Nullable String getCatalog() throws SQLException {
    checkOpen();
    return null;
  }

  @Override
  public void setTransactionIsolation(int level) throws SQLException {
    act(
        () -> {
          if (session.inTransaction()) {
            throw SqlErrors.of(
                SqlErrors.TRANSACTION,
                "Commit or roll back before setTransactionIsolation is called.");
          }
          session.setIsolation(
              switch (level) {
                case TRANSACTION_SERIALIZABLE -> Isolation.SERIALIZABLE;
                case TRANSACTION_READ_UNCOMMITTED,
                    TRANSACTION_READ_COMMITTED,
                    TRANSACTION_REPEATABLE_READ ->
                    Isolation.SNAPSHOT;
                default -> throw SqlErrors.unsupported("isolation level " + level);
              });
        });
  }

  @Override
  public int getTransactionIsolation() throws SQLException {
    checkOpen();
    return session.isolation() == Isolation.SERIALIZABLE
        ? TRANSACTION_SERIALIZABLE
        : TRANSACTION_REPEATABLE_READ;
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
  public Map<String, Class<?>> getTypeMap() throws SQLException {
    checkOpen();
    return Map.of();
  }

  @Override
  public void setHoldability(int holdability) throws SQLException {
    checkOpen();
    if (holdability != ResultSet.CLOSE_CURSORS_AT_COMMIT) {
      throw SqlErrors.unsupported("results that stay open when a transaction ends");
    }
  }

  @Override
  public int getHoldability() throws SQLException {
    checkOpen();
    return ResultSet.CLOSE_CURSORS_AT_COMMIT;
  }

  @Override
  public boolean isValid(int seconds) throws SQLException {
    if (seconds < 0) {
      throw SqlErrors.of(
          SqlErrors.DATA, "The time is %d seconds; it must not be negative.".formatted(seconds));
    }
    if (closed) {
      return false;
    }
    long until =
        seconds == 0 ? Long.MAX_VALUE : System.nanoTime() + TimeUnit.SECONDS.toNanos(seconds);
    try {
      return doing(null, until, () -> use.lake().now().commit().entry() >= 0);
    } catch (SQLException e) {
      return false;
    }
  }

  @Override
  public void setClientInfo(String name, String value) {
    // there is none; JDBC has it be a warning that nobody reads
  }

  @Override
  public void setClientInfo(Properties properties) {
    // as above
  }

  @Override
  public @Nullable String getClientInfo(String name) throws SQLException {
    checkOpen();
    return null;
  }

  @Override
  public Properties getClientInfo() throws SQLException {
    checkOpen();
    return new Properties();
  }

  @Override
  public Array createArrayOf(String typeName, @Nullable Object[] elements) throws SQLException {
    checkOpen();
    return new LakeArray(ColumnTypes.named(typeName), Arrays.asList(elements.clone()), zone());
  }

  @Override
  public Struct createStruct(String typeName, @Nullable Object[] attributes) throws SQLException {
    checkOpen();
    return new LakeStruct(typeName, attributes.clone());
  }

  @Override
  public void setSchema(@Nullable String schema) throws SQLException {
    checkOpen();
    session.setSchema(Optional.ofNullable(schema).filter(name -> !name.isEmpty()));
  }

  @Override
  public @Nullable String getSchema() throws SQLException {
    checkOpen();
    return session.schema().orElse(null);
  }

  @Override
  public void abort(Executor executor) {
    if (!closed) {
      closed = true;
      statements().forEach(running::cancel);
      executor.execute(
          () -> {
            try {
              running.awaitIdle();
              end();
            } catch (RuntimeException e) {
              // nobody is left who could be told
            }
          });
    }
  }

  @Override
  public void setNetworkTimeout(@Nullable Executor executor, int millis) throws SQLException {
    checkOpen();
    if (millis < 0) {
      throw SqlErrors.of(
          SqlErrors.DATA, "The time is %d ms; it must not be negative.".formatted(millis));
    }
    networkMillis = millis;
  }

  @Override
  public int getNetworkTimeout() throws SQLException {
    checkOpen();
    return (int) networkMillis;
  }
}
