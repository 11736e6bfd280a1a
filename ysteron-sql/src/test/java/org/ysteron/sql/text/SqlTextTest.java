package org.ysteron.sql.text;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;

class SqlTextTest {
  private static final Schema SCHEMA =
      SqlColumns.parse(
          """
          gauge_id VARCHAR(12) NOT NULL,
          taken_at TIMESTAMP WITH TIME ZONE,
          level_cm DECIMAL(7, 1) DEFAULT -1.5,
          a_day DATE, ok BOOLEAN, n INT, u UUID, doc JSON, raw VARBINARY,
          health ROW(battery DOUBLE, notes VARCHAR ARRAY),
          tags MAP<VARCHAR, INTEGER>,
          PRIMARY KEY (gauge_id, taken_at)""");

  @Test
  void columnDefinitionsBecomeASchema() {
    assertThat(SCHEMA.key()).containsExactly("gauge_id", "taken_at");
    assertThat(SCHEMA.columns())
        .extracting(column -> column.type().toString())
        .containsExactly(
            "VARCHAR(12)",
            "TIMESTAMP WITH TIME ZONE",
            "DECIMAL(7, 1)",
            "DATE",
            "BOOLEAN",
            "INTEGER",
            "UUID",
            "JSON",
            "VARBINARY",
            "ROW(battery DOUBLE PRECISION, notes VARCHAR ARRAY)",
            "MAP<VARCHAR, INTEGER>");
    assertThat(SCHEMA.resolve("taken_at").get(0).required()).isTrue();
    assertThat(SCHEMA.resolve("level_cm").get(0).writeDefault()).contains(new BigDecimal("-1.5"));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "n = 3 | n = 3",
        "3 < n | n > 3",
        "GAUGE_ID = 'a''b' | gauge_id = 'a''b'",
        "n BETWEEN 1 AND -2 OR ok | (n >= 1 AND n <= -2) OR ok = true",
        "NOT (a_day < DATE '2026-03-01') | NOT (a_day < DATE '2026-03-01')",
        "gauge_id LIKE 'ORR-%' | gauge_id LIKE 'ORR-%'",
        "gauge_id NOT LIKE 'ORR-%' | NOT (gauge_id LIKE 'ORR-%')",
        "n IN (1, 2, NULL) | n IN (1, 2, null)",
        "n NOT IN (1) | NOT (n IN (1))",
        "health.battery IS NOT NULL AND level_cm >= 4.25"
            + " | NOT (health.battery IS NULL) AND level_cm >= 4.25",
        "taken_at >= '2026-03-01T12:00:00Z' | taken_at >= '2026-03-01T12:00:00Z'"
      })
  void conditionsAreUnderstood(String sql, String expected) {
    assertThat(SqlCondition.parse(sql, SCHEMA)).hasToString(expected);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "n = 3 AND gauge_idd = 'x' | 1 | 11 | Did you mean gauge_id?",
        "n = = 3 | 1 | 3 | SQL text is wrong",
        "n = 'x' | 1 | 1 | cannot be compared with 'x'",
        "TRUNCATE(n) = 3 | 1 | 1 | not supported",
        "taken_at > TIMESTAMP '2026-03-01 00:00:00' | 1 | 1 | Add the time zone",
        "a_day = DATE '2026-13-01' | 1 | 9 | not a value of that type",
        "gauge_id LIKE gauge_id | 1 | 15 | LIKE takes its pattern as a literal"
      })
  void errorsPointAtTheirPlace(String sql, int line, int column, String message) {
    assertThatThrownBy(() -> SqlCondition.parse(sql, SCHEMA))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message)
        .hasMessageContaining("  " + sql + "\n  " + " ".repeat(column - 1) + "^")
        .satisfies(e -> assertThat(((SqlTextException) e).line()).isEqualTo(line));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "a INTEGR | There is no type INTEGR",
        "a INTEGER, a DATE | Two columns have the name 'a'",
        "a INTEGER PRIMARY | ends too early",
        "a INTEGER, PRIMARY KEY (b) | primary key names column b",
        "a DECIMAL(40, 2) | DECIMAL(40, 2) is not a type",
        "day DATE | If day is a name, write it in double quotes",
        "a INTEGER DEFAULT 'x' | 'x' is not a value of INTEGER",
        "a INTEGER) | ends too early or has one closing parenthesis too many"
      })
  void wrongDefinitionsAreRefused(String definitions, String message) {
    assertThatThrownBy(() -> SqlColumns.parse(definitions))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "TRUE | TRUE",
        "FALSE | FALSE",
        "ok | ok = true",
        "NOT ok | NOT (ok = true)",
        "n NOT BETWEEN 1 AND 2 | NOT (n >= 1 AND n <= 2)",
        "n BETWEEN SYMMETRIC 5 AND 1 | (n >= 5 AND n <= 1) OR (n >= 1 AND n <= 5)",
        "n <> 3 | n <> 3",
        "3 >= n | n <= 3",
        "n <= level_cm AND NOT n = health.battery | n <= level_cm AND NOT (n = health.battery)",
        "gauge_id LIKE 'x' | gauge_id = 'x'",
        "u = '0e2adf00-0000-4000-8000-000000000000' | u = '0e2adf00-0000-4000-8000-000000000000'",
        "raw = X'0aff' | raw = X'0aff'",
        "\"n\" = 1 AND \"health\".\"battery\" < 1e2 | n = 1 AND health.battery < 100",
        "doc IS NULL OR health IS NULL | doc IS NULL OR health IS NULL"
      })
  void otherFormsAreUnderstood(String sql, String expected) {
    assertThat(SqlCondition.parse(sql, SCHEMA)).hasToString(expected);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "n = 1 OR level_cm > ok | 1 | 10 | cannot be compared with ok (BOOLEAN)",
        "n IN (SELECT 1) | 1 | 1 | IN takes a list of values here",
        "EXISTS (n) | 1 | 1 | not supported here: EXISTS",
        "n | 1 | 1 | cannot be compared with true",
        "(n = 1 | 1 | 7 | ends too early",
        "tags = 1 | 1 | 1 | can only be tested for null",
        "health.batery = 1 | 1 | 1 | Did you mean battery?"
      })
  void whatIsNotSupportedIsSaid(String sql, int line, int column, String message) {
    assertThatThrownBy(() -> SqlCondition.parse(sql, SCHEMA))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message)
        .satisfies(
            e -> {
              assertThat(((SqlTextException) e).line()).isEqualTo(line);
              assertThat(((SqlTextException) e).column()).isEqualTo(column);
            });
  }

  @Test
  void aTextOfSeveralLinesIsPointedAtInItsLine() {
    assertThatThrownBy(() -> SqlColumns.parse("a INTEGER,\n  b NUMBER(3)"))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining("\n    b NUMBER(3)\n            ^")
        .satisfies(e -> assertThat(((SqlTextException) e).line()).isEqualTo(2));
  }

  @Test
  void aSchemaPrintsAsDefinitionsThatParse() {
    Schema schema =
        Schema.of(Field.of("a", Types.decimal(5, 2)).notNull(), Field.of("b", Types.text(3)));
    assertThat(SqlColumns.parse(schema.toString())).isEqualTo(schema);
  }
}
