package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;

/** Queries that are wide, long, deep or wrong. */
class OddQueriesTest {
  @TempDir Path directory;
  private Lake lake;

  @BeforeEach
  void create() {
    lake = Lake.create(directory.resolve("lake"));
    Table table =
        lake.createTable(
            "x.t",
            Schema.of(
                Field.of("id", Types.BIGINT),
                Field.of("a b", Types.text(10)),
                Field.of("Day", Types.DATE),
                Field.of("f", Types.DOUBLE),
                Field.of("j", Types.JSON)));
    try (Append append = table.append()) {
      for (long i = 0; i < 10; i++) {
        double number = i == 4 ? Double.NaN : i == 5 ? -0.0 : i == 6 ? 0.0 : i + 0.5;
        String text = i % 3 == 0 ? null : "v" + i % 4;
        append.add(i, text, LocalDate.of(2026, 3, (int) i + 1), number, "{\"k\":" + i + "}");
      }
      append.commit();
    }
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private List<String> rows(String query, Object... parameters) {
    List<String> found = new ArrayList<>();
    try (Results<Row> rows = lake.sql(query, parameters).rows()) {
      rows.forEach(row -> found.add(Arrays.toString(row.values())));
    }
    return found;
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      value = {
        "SELECT f, count(*) FROM x.t WHERE id IN (5, 6) GROUP BY f | [0.0, 2]",
        "SELECT count(*) FROM x.t a JOIN x.t b ON a.f = b.f WHERE a.id IN (4, 5) | [3]",
        "SELECT max(f), min(f) FROM x.t WHERE id > 3 | [NaN, -0.0]",
        "SELECT json_value(j, '$.k') FROM x.t WHERE json_value(j, '$.k') = '3' | [3]",
        "SELECT \"a b\", \"Day\" FROM x.t WHERE id = 1 | [v1, 2026-03-02]",
        "SELECT id, id, id AS id FROM x.t WHERE id = 7 | [7, 7, 7]",
        "SELECT (SELECT id FROM x.t WHERE id = 33) | [null]",
        "SELECT CASE WHEN id = 0 THEN 0 ELSE 1 / id END FROM x.t WHERE id = 0 | [0.000000]",
        "SELECT char_length('😀'), '😀' > '\uFFFD' | [1, true]",
        "SELECT count(*) FROM x.t a FULL JOIN x.t b ON a.id < b.id AND b.id > 5 | [37]",
        "SELECT 7 / 2, 1.5 + 2 | [3.500000, 3.5]",
        "SELECT count(*) FROM x.t WHERE id NOT IN (SELECT id FROM x.t WHERE id < 3) | [7]",
        "SELECT count(*) FROM x.t WHERE id NOT IN (SELECT nullif(id, 1) FROM x.t WHERE id < 3) | [0]",
        "SELECT count(*) FROM x.t FOR SYSTEM_TIME AS OF lake.version(0) | [0]",
        "SELECT count(*) FROM (VALUES ('😀'), ('�')) v(t) WHERE t >= '�' AND t >= '😀' | [1]",
        "SELECT count(*) FROM (VALUES ('😀', 1), ('�', 1)) v(t, i) FULL JOIN (VALUES (1)) w(i) ON v.i = w.i WHERE v.t >= '😀' AND v.t >= '�' | [1]",
        "SELECT count(*) FROM (VALUES ('😀', 1), ('�', 1)) v(t, i) FULL JOIN (VALUES (1)) w(i) ON v.i = w.i WHERE v.t >= '😀' AND v.t >= '�' AND v.i <= (SELECT max(x) FROM (VALUES (1, 1)) u(x, i) WHERE u.i = v.i) | [1]",
        "SELECT 'a' = 'a ' | [false]",
        "SELECT count(id, \"a b\"), count(DISTINCT \"a b\", id) FROM x.t | [6, 6]",
        "SELECT sum(id - id + 9223372036854775807), sum(id - id - 9223372036854775807) FROM x.t | [92233720368547758070, -92233720368547758070]",
        "SELECT sum(CASE WHEN id < 5 THEN 9223372036854775807 ELSE -9223372036854775807 END) FROM x.t | [0]",
      })
  void isAnswered(String query, String row) {
    assertThat(rows(query)).containsExactly(row);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      value = {
        "SELECT id + 9223372036854775807 FROM x.t | does not fit BIGINT",
        "SELECT 1 / id FROM x.t | division by zero",
        "SELECT cast('abc' AS INTEGER) | 'abc' is not a value of INTEGER",
        "SELECT id FROM x.t a, x.t b | ambiguous",
        "SELECT id FROM x.t WHERE id = ? | 0 values were given",
        "SELECT (SELECT id FROM x.t) | more than one row",
        "SELECT interval '1' day * 3 | An interval cannot be a column",
        "SELECT * FROM x.u | There is no table x.u. Did you mean x.t?",
        "SELECT idd FROM x.t | Did you mean id?",
        "SELECT 1; SELECT 2 | Only SET SYSTEM_TIME",
        "` ` | The query is empty.",
        "SELECT * FROM x.t FOR SYSTEM_TIME AS OF id | Columns cannot be used here",
      })
  void isRefused(String query, String message) {
    assertThatThrownBy(() -> rows(query))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining(message);
  }

  @Test
  void parametersHaveTheTypesOfTheirPlaces() {
    assertThat(rows("SELECT id + ? FROM x.t WHERE id = ? AND \"Day\" = ?", 5, 3L, "2026-03-04"))
        .containsExactly("[8]");
    assertThat(rows("SELECT id FROM x.t ORDER BY id LIMIT ?", 2)).containsExactly("[0]", "[1]");
  }

  @Test
  void twoHundredJoinsAreOrdered() {
    String joins =
        IntStream.range(1, 200)
            .mapToObj(i -> "join x.t t%d on t%d.id = t%d.id".formatted(i, i - 1, i))
            .collect(Collectors.joining(" "));

    assertThat(rows("select count(*) from x.t t0 " + joins)).containsExactly("[10]");
  }

  @Test
  void aThousandColumnsAreOneRow() {
    Table wide =
        lake.createTable(
            "x.wide",
            Schema.of(
                IntStream.range(0, 1000).mapToObj(i -> Field.of("c" + i, Types.INTEGER)).toList()));
    try (Append append = wide.append()) {
      append.add(IntStream.range(0, 1000).boxed().toArray());
      append.commit();
    }

    assertThat(rows("select * from x.wide where c999 = 999").get(0)).endsWith("998, 999]");
  }

  @Test
  void nullsOfMoreThanSixtyFourKeysStayApart() {
    String columns =
        IntStream.range(0, 70).mapToObj(i -> "c" + i).collect(Collectors.joining(", "));
    Table wide =
        lake.createTable(
            "x.keys",
            Schema.of(
                IntStream.range(0, 70).mapToObj(i -> Field.of("c" + i, Types.INTEGER)).toList()));
    try (Append append = wide.append()) {
      for (int nulled : new int[] {0, 64, 0}) {
        append.add(IntStream.range(0, 70).mapToObj(i -> i == nulled ? null : 0).toArray());
      }
      append.commit();
    }

    assertThat(rows("select distinct %s from x.keys where c64 is null".formatted(columns)))
        .hasSize(1);
    assertThat(rows("select distinct %s from x.keys".formatted(columns))).hasSize(2);
  }

  @Test
  void whatIsNestedTooDeepIsRefused() {
    String deep = "select " + "(".repeat(30_000) + "1" + ")".repeat(30_000);

    assertThatThrownBy(() -> rows(deep))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("nested too deep");
  }
}
