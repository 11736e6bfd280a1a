package org.ysteron.sql.text;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.RowComputation;
import org.ysteron.internal.typing.Typing;

class SqlExpressionTest {
  private static final Schema TABLE =
      SqlColumns.parse(
          """
          id VARCHAR, taken_at TIMESTAMP WITH TIME ZONE, a_day DATE, level DECIMAL(7, 1), n INT,
          d DOUBLE, ok BOOLEAN, health ROW(battery DOUBLE), nothing INT, tags VARCHAR ARRAY""");
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
          null,
          List.of("tide", "spring"));
  private static final Row GIVEN = Row.of(SOURCE.struct(), "ORR-02", new BigDecimal("400.0"));

  private static Object value(String sql) {
    Expression parsed = SqlValues.parse(sql, TABLE, Optional.of(SOURCE));
    assertThat(SqlValues.parse(parsed.toString(), TABLE, Optional.of(SOURCE)))
        .as(sql)
        .isEqualTo(parsed);
    return computed(parsed);
  }

  private static Object computed(Expression expression) {
    Expression fixed = expression.at(Instant.parse("2026-04-01T00:00:00.123456Z"));
    return RowComputation.of(new Typing(TABLE, Optional.of(SOURCE)).type(fixed)).value(ROW, GIVEN);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      quoteCharacter = '~',
      value = {
        "level + 12 ; 424.5",
        "COALESCE(d, 1.0) IN (5E-1, 2) ; true",
        "JSON_VALUE('{\"a\":1}', '$.a') LIKE '1' ; true",
        "{fn LOCATE('d' || 'e', tags[1])} ; 3",
        "FLOOR((taken_at + INTERVAL '1' DAY) TO HOUR) ; 2026-03-02T12:00:00Z",
        "-(CAST(-3 AS INTEGER)) ; 3",
        "-n * 2 + 1 ; -13",
        "level / 4 ; 103.125000",
        "n * d ; 3.5",
        "7 / 2 ; 3.500000",
        "MOD(-7, 3) ; -1",
        "id || '/' || CAST(n AS VARCHAR) ; ORR-01/7",
        "taken_at - INTERVAL '1' HOUR ; 2026-03-01T11:00:00Z",
        "taken_at + INTERVAL '2' DAY ; 2026-03-03T12:00:00Z",
        "taken_at + INTERVAL '1 2:30' DAY TO MINUTE ; 2026-03-02T14:30:00Z",
        "taken_at + INTERVAL '0.000001' SECOND ; 2026-03-01T12:00:00.000001Z",
        "taken_at + n * INTERVAL '1' MINUTE ; 2026-03-01T12:07:00Z",
        "a_day + INTERVAL '1' MONTH ; 2026-02-28",
        "a_day + INTERVAL '1-1' YEAR TO MONTH ; 2027-02-28",
        "a_day - INTERVAL '31' DAY ; 2025-12-31",
        "CURRENT_TIMESTAMP - taken_at ; PT732H0.123456S",
        "CURRENT_TIMESTAMP - taken_at > INTERVAL '30' DAY ; true",
        "source.level - level ; -12.5",
        "CASE WHEN n > 5 THEN 'many' ELSE 'few' END ; many",
        "CASE n WHEN 1 THEN 'one' WHEN 7 THEN 'seven' END ; seven",
        "CASE WHEN n > 5 THEN 1 ELSE level END ; 1.0",
        "COALESCE(nothing, health.battery, n) ; 7.0",
        "NULLIF(n, 7) ;",
        "NULLIF(n, 8) ; 7",
        "ABS(-level) ; 412.5",
        "UPPER('ab') || LOWER('CD') ; ABcd",
        "CAST(level AS INTEGER) ; 412",
        "CAST(d AS DECIMAL(3, 2)) ; 0.50",
        "CAST(n AS VARCHAR) ; 7",
        "CAST(-0.05 AS VARCHAR) ; -0.05",
        "CAST('12' AS INTEGER) ; 12",
        "CAST(' 12.55 ' AS DECIMAL(5, 1)) ; 12.6",
        "CAST(taken_at AS DATE) ; 2026-03-01",
        "CAST(a_day AS TIMESTAMP) ; 2026-01-31T00:00",
        "CAST(taken_at AS VARCHAR) ; 2026-03-01 12:00:00+00:00",
        "CAST('2026-03-01 12:00:00+01:00' AS TIMESTAMP WITH TIME ZONE) ; 2026-03-01T11:00:00Z",
        "CAST('abcdef' AS VARCHAR(3)) ; abc",
        "nothing + 1 ;",
        "ROUND(level * 1.055, 1) ; 435.2",
        "ROUND(level) ; 413",
        "FLOOR(-level) ; -413",
        "CEIL(level) ; 413",
        "POWER(2, 10) ; 1024.0",
        "SQRT(n + 2) ; 3.0",
        "ROUND(EXP(LN(level)), 6) ; 412.5",
        "SUBSTRING(id FROM 5) ; 01",
        "SUBSTRING(id FROM -5 FOR 8) ; OR",
        "SUBSTRING(id FROM 2 FOR 2) ; RR",
        "POSITION('-' IN id) ; 4",
        "CHAR_LENGTH('a😀') ; 2",
        "OVERLAY(id PLACING 'NEW' FROM 1 FOR 3) ; NEW-01",
        "TRIM('  x ') ; x",
        "TRIM(LEADING '0' FROM '007') ; 7",
        "TRIM(TRAILING 'x' FROM 'axx') ; a",
        "EXTRACT(YEAR FROM taken_at) ; 2026",
        "EXTRACT(WEEK FROM DATE '2027-01-01') ; 53",
        "EXTRACT(QUARTER FROM a_day) ; 1",
        "EXTRACT(SECOND FROM TIME '12:00:01.5') ; 1.500000",
        "FLOOR(taken_at TO MONTH) ; 2026-03-01T00:00:00Z",
        "CEIL(taken_at TO DAY) ; 2026-03-02T00:00:00Z",
        "CEIL(a_day TO WEEK) ; 2026-02-02",
        "JSON_VALUE('{\"a\": {\"b\": [1, 2.50]}}', '$.a.b[1]') ; 2.50",
        "JSON_EXISTS('{\"a\": null}', '$.a') ; true",
        "JSON_VALUE('{\"a\": null}', '$.a') ;",
        "CARDINALITY(tags) ; 2",
        "tags[2] ; spring",
        "ok AND n BETWEEN 1 AND 7 ; true",
        "n NOT BETWEEN 1 AND 7 ; false",
        "nothing = 1 OR ok ; true",
        "nothing = 1 OR NOT ok ;",
        "nothing = 1 AND NOT ok ; false",
        "n IN (1, 7) ; true",
        "n + 1 IN (8, nothing) ; true",
        "n IN (1, nothing) ;",
        "nothing IS NULL AND n IS NOT NULL ; true",
        "nothing IS DISTINCT FROM NULL ; false",
        "n IS NOT DISTINCT FROM 7 ; true",
        "(nothing = 1) IS UNKNOWN ; true",
        "ok IS TRUE ; true",
        "(n > 9) IS NOT TRUE ; true",
        "id LIKE 'O__-%1' ; true",
        "id || '%' LIKE '%!%' ESCAPE '!' ; true",
        "taken_at >= '2026-03-01T12:00:00Z' ; true",
        "id <> source.id ; true",
        "a_day < DATE '2026-02-01' ; true",
        "d = 0.5 AND d = level - 412 ; true",
        "x'0aff' = X'0AFF' ; true"
      })
  void anExpressionHasItsValue(String sql, String expected) {
    Object found = value(sql);
    assertThat(found == null ? null : found.toString()).isEqualTo(expected);
  }

  @Test
  void assignmentsAreByColumn() {
    Map<String, Expression> values =
        SqlValues.assignments("level = level + 1, ID = source.id", TABLE, Optional.of(SOURCE));
    assertThat(values.keySet()).containsExactly("level", "id");
    assertThat(computed(values.get("id"))).isEqualTo("ORR-02");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      quoteCharacter = '~',
      value = {
        "levle = 1 ; 1 ; There is no column levle. Did you mean level?",
        "level = levle + 1 ; 9 ; There is no column levle.",
        "level = 1, level = 2 ; 12 ; Column level is set twice.",
        "level = TRUNCATE(level) ; 9 ; This is not supported here: TRUNCATE.",
        "level = ; 8 ; The SQL text",
        "n = (SELECT 1) ; 5 ; This is not supported here",
        "n = n + ok ; 5 ; + is not defined for INTEGER and BOOLEAN, as in n + ok.",
        "n = 1 + (id || n) ; 9 ; || is not defined for VARCHAR and INTEGER, as in id || n. CAST what is not text to VARCHAR.",
        "n = CASE WHEN ok THEN 1 ELSE id END ; 5 ; The values of a CASE are INTEGER and VARCHAR",
        "n = CASE WHEN n > ok THEN 1 END ; 15 ; n (INTEGER) cannot be compared with ok (BOOLEAN). CAST one of them.",
        "ok = a_day < taken_at ; 6 ; a_day (DATE) cannot be compared with taken_at",
        "n = 'abc' ; 5 ; 'abc' is not a value of INTEGER",
        "n = id ; 5 ; id is VARCHAR and cannot be stored as INTEGER. CAST it.",
        "n = EXTRACT(HOUR FROM a_day) ; 5 ; a_day is DATE and has no HOUR.",
        "id = tags[1].name ; 6 ; tags[1] is VARCHAR and has no field name.",
        "id = JSON_VALUE(id, 'a') ; 6 ; 'a' is not a JSON path.",
        "n = CAST(ok AS INTEGER) ; 5 ; ok (BOOLEAN) cannot be CAST to INTEGER.",
        "n = SQRT(n, 2) ; 5 ; SQRT takes 1 argument, not 2.",
        "taken_at = taken_at + INTERVAL '1:30' DAY TO MINUTE ; 23 ; This is not an interval of that unit."
      })
  void whatIsWrongIsPointedAt(String sql, int column, String message) {
    assertThatThrownBy(() -> SqlValues.assignments(sql, TABLE, Optional.empty()))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message)
        .hasMessageContaining("^")
        .satisfies(e -> assertThat(((SqlTextException) e).column()).as(sql).isEqualTo(column));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      quoteCharacter = '~',
      value = {
        "n / (n - 7) ; 7 / 0 is a division by zero",
        "MOD(n, 0) ; 7 MOD 0 is a division by zero",
        "d / (d - d) ; 0.5 / 0.0 is a division by zero",
        "n + 2147483647 ; 7 + 2147483647 does not fit INTEGER",
        "n * 9223372036854775807 ; 7 * 9223372036854775807 does not fit BIGINT",
        "CAST(99999999999999999999999999999999999999 AS DECIMAL(38, 0)) + n ; does not fit DECIMAL(38, 0)",
        "CAST(level * 1000 AS DECIMAL(5, 1)) ; does not fit DECIMAL(5, 1)",
        "CAST('x' || id AS INTEGER) ; 'xORR-01' is not a value of INTEGER",
        "SUBSTRING(id FROM 1 FOR 0 - n) ; the length must not be negative",
        "a_day + INTERVAL '1' HOUR ; does not fit DATE",
        "a_day + n * INTERVAL '300000000' MONTH ; does not fit",
        "tags[n] ; Element 7 of a list of 2 does not exist",
        "SQRT(0 - d) ; SQRT(-0.5) is out of the range of DOUBLE PRECISION",
        "LN(d - d) ; LN(0.0) is out of the range of DOUBLE PRECISION",
        "EXP(n * 1000) ; EXP(7000.0) is out of the range of DOUBLE PRECISION",
        "POWER(d - d, -1) ; is out of the range",
        "OVERLAY(id PLACING 'x' FROM 0) ; the first character is 1"
      })
  void aValueThatCannotBeComputedSaysWhy(String sql, String message) {
    assertThatThrownBy(() -> value(sql)).hasMessageContaining(message);
  }

  @Test
  void whatCannotFailIsTestedBeforeWhatCan() {
    assertThat(value("10 / (n - 7) > 1 AND n <> 7")).isEqualTo(false);
    assertThat(value("n = 7 OR 10 / (n - 7) > 1")).isEqualTo(true);
    assertThat(value("CASE WHEN n = 7 THEN 0 ELSE 10 / (n - 7) END")).hasToString("0.000000");
  }

  @ParameterizedTest
  @ValueSource(ints = {64, 65})
  void expressionsNestAsDeepAsTheLimit(int depth) {
    String sum = "n" + " + 1".repeat(depth - 1);
    if (depth <= 64) {
      assertThat(value(sum)).isEqualTo(7 + depth - 1);
    } else {
      assertThatThrownBy(() -> value(sum)).hasMessageContaining("nested more than 64 levels deep");
    }
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      value = {
        "take ; TakeAll[]; ",
        "take id, LEVEL ; Set[values={id=source.id, level=source.level}] ; ",
        "delete if source.level > level ; Delete[] ; source.level > level",
        "set level = source.level + 1, id = 'it''s if' if id = 'x if y' ; Set[values={level=source.level + 1, id='it''s if'}] ; id = 'x if y'"
      })
  void aMergeClauseIsRead(String text, String action, String condition) {
    SqlMergeClause clause = SqlMergeClause.matched(text, TABLE, SOURCE);
    assertThat(clause.action()).hasToString(action);
    assertThat(clause.condition().map(Condition::toString).orElse(null)).isEqualTo(condition);
  }

  @Test
  void namesOfAClauseWithoutARowOfTheTableAreThoseOfTheSource() {
    SqlMergeClause clause =
        SqlMergeClause.unmatched("set level = level * 2 if level > 0", TABLE, SOURCE);
    assertThat(clause.action()).hasToString("Set[values={level=source.level * 2}]");
    assertThat(clause.condition().orElseThrow()).hasToString("source.level > 0");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      value = {
        "remove ; is not a merge action. Use take",
        "set ; ends too early",
        "set level = 1 if ; ends too early",
        "take id level ; Expected: , IF.",
        "delete if source.levl > 1 ; Did you mean level?"
      })
  void aWrongMergeClauseIsPointedAt(String text, String message) {
    assertThatThrownBy(() -> SqlMergeClause.matched(text, TABLE, SOURCE))
        .isInstanceOf(SqlTextException.class)
        .hasMessageContaining(message);
  }
}
