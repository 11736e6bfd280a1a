package org.ysteron.jdbc;

import java.sql.ParameterMetaData;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Query;
import org.ysteron.sql.text.SqlText;

/**
 * A statement with question marks. It is planned when it is executed, on the lake as it is then; a
 * batch of an INSERT of one row of question marks is planned once.
 */
final class LakePreparedStatement extends ParameterValues {
  private final String sql;
  private final List<List<@Nullable Object>> sets = new ArrayList<>();

  LakePreparedStatement(LakeConnection connection, String sql) {
    super(connection, SqlText.parameters(sql));
    this.sql = sql;
  }

  @Override
  public ResultSet executeQuery() throws SQLException {
    return rows(sql, all());
  }

  @Override
  public int executeUpdate() throws SQLException {
    return limited(executeLargeUpdate());
  }

  @Override
  public long executeLargeUpdate() throws SQLException {
    return update(sql, all());
  }

  @Override
  public boolean execute() throws SQLException {
    return run(sql, all());
  }

  @Override
  public void addBatch() throws SQLException {
    checkOpen();
    sets.add(all());
  }

  @Override
  public void clearBatch() throws SQLException {
    super.clearBatch();
    sets.clear();
  }

  @Override
  public long[] executeLargeBatch() throws SQLException {
    List<List<@Nullable Object>> all = List.copyOf(sets);
    sets.clear();
    return batch(all.size(), () -> connection().executeBatch(sql, all));
  }

  @Override
  public @Nullable ResultSetMetaData getMetaData() throws SQLException {
    checkOpen();
    Optional<Query> query =
        connection()
            .doing(() -> connection().described(sql, Arrays.asList(new @Nullable Object[count()])));
    return query.map(of -> new ResultMetaData(of.schema(), of.labels())).orElse(null);
  }

  @Override
  public ParameterMetaData getParameterMetaData() throws SQLException {
    checkOpen();
    return new Parameters(count());
  }

  private static SQLException given() {
    return SqlErrors.of(
        SqlErrors.GENERAL, "A prepared statement has its text. Call the method without one.");
  }

  @Override
  public ResultSet executeQuery(String other) throws SQLException {
    throw given();
  }

  @Override
  public long executeLargeUpdate(String other) throws SQLException {
    throw given();
  }

  @Override
  public boolean execute(String other) throws SQLException {
    throw given();
  }

  @Override
  public void addBatch(String other) throws SQLException {
    throw given();
  }

  /** Parameters, each of which takes values of every type that fits its place. */
  private static final class Parameters extends Unwrapped implements ParameterMetaData {
    private final int count;

    Parameters(int count) {
      this.count = count;
    }

    @Override
    public int getParameterCount() {
      return count;
    }

    private void check(int number) throws SQLException {
      if (number < 1 || number > count) {
        throw SqlErrors.of(
            SqlErrors.PARAMETER,
            "There is no parameter %d; the statement has %d.".formatted(number, count));
      }
    }

    @Override
    public int isNullable(int number) throws SQLException {
      check(number);
      return parameterNullableUnknown;
    }

    @Override
    public boolean isSigned(int number) throws SQLException {
      check(number);
      return true;
    }

    @Override
    public int getPrecision(int number) throws SQLException {
      check(number);
      return 0;
    }

    @Override
    public int getScale(int number) throws SQLException {
      check(number);
      return 0;
    }

    @Override
    public int getParameterType(int number) throws SQLException {
      check(number);
      return java.sql.Types.OTHER;
    }

    @Override
    public String getParameterTypeName(int number) throws SQLException {
      check(number);
      return "ANY";
    }

    @Override
    public String getParameterClassName(int number) throws SQLException {
      check(number);
      return Object.class.getName();
    }

    @Override
    public int getParameterMode(int number) throws SQLException {
      check(number);
      return parameterModeIn;
    }
  }
}
