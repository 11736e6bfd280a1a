package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;

/** Data files as readers see them that did not write them. */
class OtherReadersTest {
  private static final Path READERS = Path.of("src/test/resources/readers");
  private static final Path INSTALLED = Path.of("target/readers");

  @TempDir Path directory;

  private static String run(Path where, String... command)
      throws IOException, InterruptedException {
    Path output = Files.createTempFile(where, "run", ".txt");
    Process process =
        new ProcessBuilder(command)
            .directory(where.toFile())
            .redirectErrorStream(true)
            .redirectOutput(output.toFile())
            .start();
    boolean ended = process.waitFor(3, TimeUnit.MINUTES);
    String said = Files.readString(output, StandardCharsets.UTF_8);
    Files.delete(output);
    return ended && process.exitValue() == 0 ? said : "failed: " + said;
  }

  /** Installs the readers once; says in a word why the test is skipped when it cannot. */
  private static void install() throws IOException, InterruptedException {
    Files.createDirectories(INSTALLED);
    try {
      run(INSTALLED, "node", "--version");
    } catch (IOException e) {
      assumeTrue(false, "Node.js is not here: " + e.getMessage());
    }
    for (String name : List.of("package.json", "read.mjs")) {
      Files.writeString(INSTALLED.resolve(name), Files.readString(READERS.resolve(name)));
    }
    if (!Files.isDirectory(INSTALLED.resolve("node_modules"))) {
      String said = run(INSTALLED, "npm", "install", "--no-audit", "--no-fund");
      assumeTrue(!said.startsWith("failed: "), "the readers cannot be installed: " + said);
    }
  }

  private Table table() {
    Schema schema =
        Schema.of(
            Field.of("k", Types.INTEGER).notNull(),
            Field.of("d", Types.DOUBLE),
            Field.of("f", Types.REAL),
            Field.of("t", Types.text()),
            Field.of("list", Types.listOf(Types.DOUBLE)));
    Lake lake = Lake.create(directory.resolve("lake"));
    Table table =
        lake.createTable(
            "t.x", schema, TableSettings.DEFAULTS, LayoutPlan.none().sortedBy("t descending", "k"));
    try (Append append = table.append()) {
      for (int k = 0; k < 100; k++) {
        append.add(k, k / 4.0, k / 2f, "t" + k % 7, List.of(k + 0.5));
      }
      append.commit();
    }
    table.update().where(column("k").equalTo(7)).set("d", Double.NaN).run();
    table.rewrite().run();
    return table;
  }

  private List<String> files(Table table) {
    List<String> files = new ArrayList<>();
    for (FileEntry file : table.now().entries()) {
      files.add(directory.resolve("lake").resolve(file.objectName(table.id())).toString());
    }
    return files;
  }

  @Test
  void olderReadersOpenFilesWithRealsAndDoubles() throws Exception {
    install();
    for (String file : files(table())) {
      String said =
          run(INSTALLED, "node", "read.mjs", Path.of(file).toAbsolutePath().toString(), "k", "f");
      // The table's columns and the two hidden ones, for rows were moved into the file.
      assertThat(said.lines()).containsExactly("parquet-wasm 100 7", "polars 100 4950 2475");
    }
  }

  @Test
  void boundsAreLeftOutWhereThereIsANaNAndTheOrderOfRowsIsTold() throws SQLException {
    Table table = table();
    assertThat(table.scan().where(column("d").greaterThan(24.7)).count()).isEqualTo(2);
    assertThat(table.scan().where(column("d").lessThan(0.3)).count()).isEqualTo(2);
    try (Connection duck = DriverManager.getConnection("jdbc:duckdb:");
        Statement statement = duck.createStatement()) {
      for (String file : files(table)) {
        String from = " FROM parquet_metadata('" + file + "') WHERE path_in_schema = ";
        assertThat(text(statement, "SELECT stats_min_value" + from + "'d'")).isNull();
        assertThat(text(statement, "SELECT stats_max_value" + from + "'f'")).isEqualTo("49.5");
        String read = " FROM read_parquet('" + file + "')";
        assertThat(text(statement, "SELECT count(*)" + read + " WHERE d > 24.7")).isEqualTo("2");
        assertThat(text(statement, "SELECT list(t)" + read))
            .isEqualTo(text(statement, "SELECT list(t ORDER BY t DESC, k)" + read));
      }
    }
    assertThat(table.now().entries()).allMatch(file -> file.numbers().order() == 1);
  }

  private static String text(Statement statement, String query) throws SQLException {
    try (ResultSet result = statement.executeQuery(query)) {
      result.next();
      return result.getString(1);
    }
  }
}
