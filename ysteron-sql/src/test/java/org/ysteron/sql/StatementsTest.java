package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.ysteron.Lake;
import org.ysteron.data.Query;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.YsteronException;

/**
 * What statements answer, as {@code docs/sql} shows it: a statement on a line, and its rows behind
 * it. With {@code -Dysteron.write=true} the answers are written anew, to be read before they are
 * kept.
 */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class StatementsTest {
  private static final Path PAGES = Path.of("../docs/sql");
  private static final int LEAST = 400;

  /** Pages from this one on change their lake, so that each has its own. */
  private static final String CHANGING = "20";

  private Path directory;
  private Lake lake;

  @BeforeAll
  void create(@TempDir Path temporary) {
    directory = temporary;
    lake = StatementLake.create(directory.resolve("lake"));
  }

  @AfterAll
  void close() throws IOException {
    lake.close();
    try (Stream<Path> pages = Files.list(PAGES)) {
      long statements = 0;
      for (Path page : pages.toList()) {
        statements += statements(Files.readAllLines(page)).size();
      }
      assertThat(statements).isGreaterThanOrEqualTo(LEAST);
    }
  }

  static List<String> pages() throws IOException {
    try (Stream<Path> pages = Files.list(PAGES)) {
      return pages.map(page -> page.getFileName().toString()).sorted().toList();
    }
  }

  @ParameterizedTest
  @MethodSource("pages")
  void areAnsweredAsTheyAreDocumented(String name) throws IOException {
    Path page = PAGES.resolve(name);
    List<String> written = Files.readAllLines(page);
    String answered = name.compareTo(CHANGING) < 0 ? answered(written) : changed(name, written);
    if (Boolean.getBoolean("ysteron.write")) {
      Files.writeString(page, answered);
    }

    assertThat(answered).isEqualTo(String.join("\n", written) + "\n");
  }

  private static List<String> statements(List<String> lines) {
    return lines.stream()
        .filter(line -> !line.isBlank() && !line.startsWith("#") && !line.startsWith("    "))
        .toList();
  }

  /** The page with what the statements of a session answer on a lake of their own. */
  private String changed(String name, List<String> written) {
    try (Lake own = StatementLake.create(directory.resolve(name));
        SqlSession session = new SqlSession(own)) {
      return answered(written, statement -> answers(session, statement));
    }
  }

  /** The page with what the statements answer now. */
  private String answered(List<String> written) {
    return answered(written, this::answers);
  }

  private static String answered(List<String> written, Function<String, List<String>> statements) {
    StringBuilder page = new StringBuilder();
    for (String line : written) {
      if (line.startsWith("#")) {
        page.append(line).append('\n');
      }
    }
    for (String statement : statements(written)) {
      page.append('\n').append(statement).append('\n');
      statements.apply(statement).forEach(line -> page.append("    ").append(line).append('\n'));
    }
    return page.toString();
  }

  private List<String> answers(String statement) {
    try {
      return rows(SqlQuery.of(lake.now(), Optional.empty(), statement, List.of()));
    } catch (YsteronException e) {
      return error(e);
    }
  }

  private static List<String> answers(SqlSession session, String statement) {
    try {
      SqlResult result = session.execute(statement, List.of());
      if (result instanceof SqlResult.Rows rows) {
        return rows(rows.query());
      }
      return List.of(
          result instanceof SqlResult.Changed changed
              ? changed.what()
              : ((SqlResult.Done) result).what());
    } catch (YsteronException e) {
      return error(e);
    }
  }

  private static List<String> rows(Query query) {
    List<String> lines = new ArrayList<>();
    try (Results<Row> rows = query.rows()) {
      for (Row row : rows) {
        List<String> values = new ArrayList<>();
        for (Object value : row.values()) {
          values.add(shown(value));
        }
        lines.add(String.join(" | ", values));
      }
    }
    return lines.isEmpty() ? List.of("(no rows)") : lines;
  }

  private static List<String> error(YsteronException e) {
    String what = e.getMessage().lines().findFirst().orElse("");
    return List.of(
        "error: "
            + what.replaceAll("in /\\S*", "in …").replaceAll("\\d{4}-\\d\\d-\\d\\dT\\S+Z", "…"));
  }

  /** A value as text; sizes of files differ with the library that writes them. */
  private static String shown(Object value) {
    if (value instanceof byte[] bytes) {
      return "X'" + HexFormat.of().formatHex(bytes) + "'";
    }
    String text = value instanceof BigDecimal number ? number.toPlainString() : "" + value;
    return value == null ? "NULL" : text.replaceAll("[\\d,]+ bytes", "… bytes").replace('\n', ' ');
  }
}
