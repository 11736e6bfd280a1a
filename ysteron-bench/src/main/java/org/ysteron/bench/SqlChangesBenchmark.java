package org.ysteron.bench;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.List;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.MergeSource;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Expression;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * UPDATE and MERGE by SQL against the same by the Java API, and lineitem read by JDBC against a
 * scan that reads the same values row by row, all in processor time with one thread.
 */
final class SqlChangesBenchmark implements Main.Benchmark {
  private static final int ROWS = Size.of(1_000_000, 10_000);
  private static final int CHANGED = Size.of(100_000, 1_000);
  private static final int HALF = Size.of(5_000, 50);
  private static final int WARM_UP = 4;
  private static final int ROUNDS = 7;
  private static final int LINES = 2;
  private static final String LINE_ITEMS = "bench.lineitem";

  private static final String MERGE =
      "MERGE INTO tide.by_sql AS t USING tide.source AS s ON t.id = s.id"
          + " WHEN MATCHED THEN UPDATE SET gauge_id = s.gauge_id, level_cm = s.level_cm"
          + " WHEN NOT MATCHED THEN INSERT VALUES (s.id, s.gauge_id, s.level_cm)";

  @Override
  public boolean run(Path directory) throws IOException {
    Path path = directory.resolve("lake");
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(1))) {
      Table java = table(lake, "tide.by_java");
      table(lake, "tide.by_sql");
      Table source = empty(lake, "tide.source");
      add(source, ROWS - HALF, ROWS + HALF);
      Expression raised =
          Expression.column("level_cm").plus(Expression.literal(new BigDecimal("0.5")));
      Timing update =
          Timing.ofProcessor()
              .add(
                  "UPDATE by Java",
                  () ->
                      java.update()
                          .set("level_cm", raised)
                          .where(Expression.column("id").lessThan(CHANGED))
                          .run())
              .add(
                  "UPDATE by SQL",
                  () ->
                      lake.execute(
                          "UPDATE tide.by_sql SET level_cm = level_cm + 0.5 WHERE id < ?", CHANGED))
              .run(WARM_UP, ROUNDS);
      Timing merge =
          Timing.ofProcessor()
              .add("MERGE by Java", () -> java.upsert(MergeSource.scan(source.scan())).run())
              .add("MERGE by SQL", () -> lake.execute(MERGE))
              .run(WARM_UP, ROUNDS);
      boolean kept = Timing.ratio("UPDATE by SQL / by Java", of(update), 1.1);
      kept &= Timing.ratio("MERGE by SQL / by Java", of(merge), 1.1);
      LineItems.inOneFile(lake);
      Timing read =
          Timing.ofProcessor()
              .add("lineitem by a scan", () -> scan(lake.table(LINE_ITEMS)))
              .add("lineitem by JDBC", () -> jdbc(path))
              .run(LINES, ROUNDS);
      return Timing.ratio("lineitem by JDBC / by a scan", of(read), 1.5) && kept;
    }
  }

  private static double of(Timing timing) {
    return timing.median(1) / timing.median(0);
  }

  private static Table empty(Lake lake, String name) {
    return lake.createTable(
        name,
        Schema.of(
                Field.of("id", Types.BIGINT).notNull(),
                Field.of("gauge_id", Types.text(12)),
                Field.of("level_cm", Types.decimal(9, 1)))
            .withKey("id"));
  }

  private static Table table(Lake lake, String name) {
    Table table = empty(lake, name);
    add(table, 0, ROWS);
    return table;
  }

  private static void add(Table table, long from, long to) {
    try (Append append = table.append()) {
      for (long id = from; id < to; id++) {
        append.add(id, "ORR-" + id % 97, BigDecimal.valueOf(id * 7919 % 10_000, 1));
      }
      append.commit();
    }
  }

  private static void scan(Table table) {
    try (Results<Row> rows = table.scan().rows()) {
      int columns = table.schema().columns().size();
      for (Row row : rows) {
        for (int c = 0; c < columns; c++) {
          row.get(c);
        }
      }
    }
  }

  private static void jdbc(Path path) throws IOException {
    String url = "jdbc:ysteron:" + path;
    try (Connection connection = DriverManager.getConnection(url);
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT * FROM " + LINE_ITEMS)) {
      List<Class<?>> classes = List.of(Long.class, BigDecimal.class, String.class, LocalDate.class);
      int columns = rows.getMetaData().getColumnCount();
      Class<?>[] wanted = new Class<?>[columns];
      for (int c = 0; c < columns; c++) {
        wanted[c] =
            switch (rows.getMetaData().getColumnType(c + 1)) {
              case java.sql.Types.BIGINT, java.sql.Types.INTEGER -> classes.get(0);
              case java.sql.Types.DECIMAL -> classes.get(1);
              case java.sql.Types.DATE -> classes.get(3);
              default -> classes.get(2);
            };
      }
      while (rows.next()) {
        for (int c = 0; c < columns; c++) {
          if (wanted[c] == Long.class) {
            rows.getLong(c + 1);
          } else if (wanted[c] == String.class) {
            rows.getString(c + 1);
          } else if (wanted[c] == BigDecimal.class) {
            rows.getBigDecimal(c + 1);
          } else {
            rows.getObject(c + 1, LocalDate.class);
          }
        }
      }
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }
}
