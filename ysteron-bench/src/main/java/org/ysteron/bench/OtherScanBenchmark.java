package org.ysteron.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.stream.Collectors;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;

/**
 * Scanning six million rows with one thread, against DuckDB on the same file, in processor time;
 * both add up all values, of texts the lengths.
 */
final class OtherScanBenchmark implements Main.Benchmark {
  @Override
  public boolean run(Path directory) throws IOException {
    Path path = directory.resolve("lake");
    try (Lake lake = Lake.create(new LocalStore(path), LakeOptions.DEFAULTS.threads(1));
        Connection other = DriverManager.getConnection("jdbc:duckdb:");
        Statement statement = other.createStatement()) {
      Table table = LineItems.inOneFile(lake);
      Path file = path.resolve(table.now().files().get(0).name());
      statement.execute("SET threads = 1");
      List<String> all = LineItems.schema().columns().stream().map(Field::name).toList();
      String all16 = sql(file, all);
      String all3 = sql(file, List.of(ScanBenchmark.THREE));
      Sums.same(sum(statement, all16), ScanBenchmark.scan(table));
      Timing timing =
          Timing.ofProcessor()
              .add("DuckDB, 16 columns, 1 thread", () -> sum(statement, all16))
              .add("scan, 16 columns, 1 thread", () -> ScanBenchmark.scan(table))
              .add("DuckDB, 3 columns, 1 thread", () -> sum(statement, all3))
              .add(
                  "scan, 3 columns, 1 thread", () -> ScanBenchmark.scan(table, ScanBenchmark.THREE))
              .run(3, 9);
      boolean kept =
          Timing.ratio("scan of 3 columns / DuckDB", timing.median(3) / timing.median(2), 1.10);
      return Timing.ratio("scan of 16 columns / DuckDB", timing.median(1) / timing.median(0), 1.10)
          && kept;
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }

  private static String sql(Path file, List<String> columns) {
    return columns.stream()
        .map(name -> "sum(%s)::HUGEINT".formatted(number(name)))
        .collect(Collectors.joining(" + ", "SELECT ", " FROM read_parquet('" + file + "')"));
  }

  /** What our side adds up of a column: numbers unscaled, days, lengths of texts. */
  private static String number(String name) {
    Type type = LineItems.schema().find(name).type();
    if (type instanceof Type.Text) {
      return "strlen(%s)".formatted(name);
    }
    if (type == Types.DATE) {
      return "(%s - DATE '1970-01-01')".formatted(name);
    }
    return type instanceof Type.Decimal decimal
        ? "%s * %d".formatted(name, (long) Math.pow(10, decimal.scale()))
        : name;
  }

  private static long sum(Statement statement, String sql) throws IOException {
    try (ResultSet result = statement.executeQuery(sql)) {
      result.next();
      return result.getLong(1);
    } catch (SQLException e) {
      throw new IOException(e);
    }
  }
}
