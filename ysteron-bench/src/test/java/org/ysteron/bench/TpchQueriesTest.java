package org.ysteron.bench;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.Lake;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.sql.SqlQuery;

/** The 22 queries of TPC-H, answered as DuckDB answers them on the same files. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class TpchQueriesTest {
  private static final double SCALE = Double.parseDouble(System.getProperty("ysteron.tpch", "0.1"));

  private Lake lake;
  private Connection connection;
  private Statement duck;
  private List<String> queries;

  @BeforeAll
  void create(@TempDir Path directory) throws Exception {
    lake = Lake.create(directory);
    TpchTables.create(lake, SCALE);
    connection = DriverManager.getConnection("jdbc:duckdb:");
    duck = connection.createStatement();
    TpchTables.show(lake, directory, duck);
    queries = TpchTables.queries();
  }

  @AfterAll
  void close() throws Exception {
    duck.close();
    connection.close();
    lake.close();
  }

  @ParameterizedTest
  @ValueSource(
      ints = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22})
  void isAnsweredAsByAnotherEngine(int number) throws Exception {
    String query = queries.get(number - 1);

    assertThat(ours(query)).isNotEmpty().isEqualTo(theirs(query));
  }

  private List<List<String>> ours(String query) {
    SqlQuery made = SqlQuery.of(lake.now(), Optional.of(TpchTables.SCHEMA), query, List.of());
    List<List<String>> found = new ArrayList<>();
    try (Results<Row> rows = made.rows()) {
      for (Row row : rows) {
        List<String> values = new ArrayList<>();
        for (int c = 0; c < made.labels().size(); c++) {
          values.add(text(row.get(c)));
        }
        found.add(values);
      }
    }
    return found;
  }

  private List<List<String>> theirs(String query) throws Exception {
    List<List<String>> found = new ArrayList<>();
    try (ResultSet rows = duck.executeQuery(query)) {
      while (rows.next()) {
        List<String> values = new ArrayList<>();
        for (int c = 1; c <= rows.getMetaData().getColumnCount(); c++) {
          values.add(text(rows.getObject(c)));
        }
        found.add(values);
      }
    }
    return found;
  }

  /** Numbers with two decimal places: DuckDB divides in double precision. */
  private static String text(Object value) {
    return value instanceof Number number
        ? new BigDecimal(number.toString()).setScale(2, RoundingMode.HALF_UP).toPlainString()
        : String.valueOf(value);
  }
}
