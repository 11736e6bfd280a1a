package org.ysteron.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;

class SqlExpressionTest {
  private static final Schema TABLE =
      SqlColumns.parse(
          """
          id VARCHAR, taken_at TIMESTAMP WITH TIME ZONE, a_day DATE, level DECIMAL(7, 1), n INT,
          d DOUBLE, ok BOOLEAN, health ROW(battery DOUBLE), nothing INT""");
  private static final Schema SOURCE = SqlColumns.parse("id VARCHAR, level DECIMAL(7, 1)");
  private static final Row ROW =
      Row.of(
          TABLE.struct(),
          "ORR-01",
          Instant.parse("2026-03-01T12:00:00Z"),
          LocalDate.of(2026, 1, 31),
          new BigDecimal("412.5"),
          7,
          0.5,
          true,
          null,
          null);
  private static final Row GIVEN = Row.of(SOURCE.struct(), "ORR-02", new BigDecimal("400.0"));

  private static Object value(String sql) {
    return SqlExpression.parse(sql, TABLE, Optional.of(SOURCE)).apply(ROW, GIVEN);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      quoteCharacter = '~',
      value = {
        "level + 12 ; 424.5",
        "-n * 2 + 1 ; -13",
        "level / 4 ; 103.125",
        "n * d ; 3.5",
        "7 / 2 ; 3.5",
        "id || '/' || n ; ORR-01/7",
        "taken_at - INTERVAL '1' HOUR ; 2026-03-01T11:00:00Z",
        "taken_at + INTERVAL '2' DAY ; 2026-03-03T12:00:00Z",
        "a_day + INTERVAL '1' MONTH ; 2026-02-28",
        "a_day - INTERVAL '31' DAY ; 2025-12-31",
        "source.level - level ; -12.5",
        "CASE WHEN n > 5 THEN 'many' ELSE 'few' END ; many",
        "CASE n WHEN 1 THEN 'one' WHEN 7 THEN 'seven' END ; seven",
        "COALESCE(nothing, health.battery, n) ; 7",
        "NULLIF(n, 7) ;",
        "ABS(-level) ; 412.5",
        "UPPER('ab') || LOWER('CD') ; ABcd",
        "CAST(level AS INTEGER) ; 412",
        "CAST(d AS DECIMAL(3, 2)) ; 0.50",
        "CAST(n AS VARCHAR) ; 7",
        "CAST('12' AS INTEGER) ; 12",
        "nothing + 1 ;",
        "ok AND n BETWEEN 1 AND 7 ; true",
        "n NOT BETWEEN 1 AND 7 ; false",
        "nothing = 1 OR ok ; true",
        "nothing = 1 OR NOT ok ;",
        "nothing = 1 AND NOT ok ; false",
        "n IN (1, 7) ; true",
        "n IN (1, nothing) ;",
        "nothing IS NULL AND n IS NOT NULL ; true",
        "taken_at >= '2026-03-01T12:00:00Z' ; true",
        "id <> source.id ; true",
        "a_day < DATE '2026-02-01' ; true"
      })
  void anExpressionHasItsValue(String sql, String expected) {
    Object found = value(sql);
    assertThat(found == null ? null : found.toString()).isEqualTo(expected);
  }

  @Test
  void assignmentsAreByColumn() {
    Map<String, RowFunction> values =
        SqlExpression.assignments("level = level + 1, ID = source.id", TABLE, Optional.of(SOURCE));
    assertThat(values.keySet()).containsExactly("level", "id");
    assertThat(values.get("id").apply(ROW, GIVEN)).isEqualTo("ORR-02");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      quoteCharacter = '~',
      value = {
        "levle = 1 ; There is no column levle. Did you mean level?",
        "level = levle + 1 ; There is no column levle.",
        "level = 1, level = 2 ; Column level is set twice.",
        "level = SQRT(level) ; This is not supported here: SQRT.",
        "level = ; The SQL text",
        "n = (SELECT 1) ; This is not supported here",
        "taken_at = taken_at + INTERVAL '1:30' HOUR TO MINUTE ; An interval has one unit"
      })
  void whatIsWrongIsPointedAt(String sql, String message) {
    assertThatThrownBy(() -> SqlExpression.assignments(sql, TABLE, Optional.empty()))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message)
        .hasMessageContaining("^");
  }

  @Test
  void aValueThatCannotBeComputedIsPointedAt() {
    assertThatThrownBy(() -> value("n / (n - 7)")).hasMessageContaining("7 is divided by zero");
    assertThatThrownBy(() -> value("level + ok")).hasMessageContaining("cannot be added");
    assertThatThrownBy(() -> value("ok > 1")).hasMessageContaining("cannot be compared");
    assertThatThrownBy(() -> value("n AND ok")).hasMessageContaining("neither true nor false");
  }
}
