package org.ysteron.sql.text;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.layout.Layout;
import org.ysteron.option.Alteration;
import org.ysteron.option.Lift;

class SqlAlterTest {
  private static final TableForm FORM =
      TableForm.of(
          Schema.of(
                  Field.of("id", Types.INTEGER),
                  Field.of("level_cm", Types.decimal(7, 1)),
                  Field.of("odd name", Types.text(5)),
                  Field.of("health", Types.struct(Field.of("battery", Types.INTEGER))),
                  Field.of("marks", Types.listOf(Types.struct(Field.of("x", Types.REAL)))))
              .withKey("id"),
          Layout.NONE);

  private static List<String> parsed(String actions) {
    return SqlAlter.parse(actions, FORM).stream().map(Alteration::toString).toList();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "ADD salinity DOUBLE|add salinity DOUBLE PRECISION",
        "add column c INTEGER NOT NULL DEFAULT 5 AFTER id|add c INTEGER not null default 5 after id",
        "ADD health.\"Sig nal\" DECIMAL(5, 2) FIRST COMMENT 'it''s'"
            + "|add health.\"Sig nal\" DECIMAL(5, 2) first",
        "ADD marks.element.y MAP<VARCHAR, INTEGER> BEFORE x"
            + "|add marks.element.y MAP<VARCHAR, INTEGER> before x",
        "DROP COLUMN level_cm RESTRICT|drop level_cm",
        "DROP \"odd name\"|drop \"odd name\"",
        "ALTER COLUMN level_cm SET DATA TYPE DECIMAL(9, 2)|widen level_cm to DECIMAL(9, 2)",
        "ALTER marks.element.x SET DATA TYPE DOUBLE PRECISION"
            + "|widen marks.element.x to DOUBLE PRECISION",
        "ALTER level_cm SET DEFAULT 1.5|set default level_cm 1.5",
        "ALTER level_cm DROP DEFAULT|drop default level_cm",
        "ALTER level_cm SET DEFAULT 1 + 0.5|set default level_cm 1 + 0.5",
        "ADD c DATE DEFAULT CAST(CURRENT_TIMESTAMP AS DATE) FIRST|add c DATE default CAST(CURRENT_TIMESTAMP AS DATE) first",
        "ALTER level_cm SET NOT NULL|set not null level_cm",
        "ALTER level_cm DROP NOT NULL|drop not null level_cm",
        "ALTER level_cm SET COMMENT 'in cm'|comment level_cm 'in cm'",
        "ALTER level_cm DROP COMMENT|comment level_cm ''",
        "ADD CONSTRAINT sane CHECK (level_cm < 9999 AND id IN (1, 2))"
            + "|add check sane (level_cm < 9999 AND id IN (1, 2))",
        "ADD CHECK (id <= level_cm)|add check check1 (id <= level_cm)",
        "ADD PRIMARY KEY (id, level_cm)|set key id, level_cm",
        "DROP PRIMARY KEY|drop key",
        "RENAME COLUMN level_cm TO level|rename level_cm to level",
        "RENAME health.battery TO \"Battery %\"|rename health.battery to Battery %",
        "MOVE level_cm BEFORE id|move level_cm before id"
      })
  void actionsAreRead(String actions, String alteration) {
    assertThat(parsed(actions)).containsExactly(alteration);
  }

  @Test
  void actionsStandOnEachOther() {
    assertThat(
            parsed(
                "RENAME level_cm TO level, ADD level_mm INTEGER AFTER level,\n"
                    + " ADD CONSTRAINT c CHECK (level_mm > 0), ALTER level SET DEFAULT 5,"
                    + " DROP CONSTRAINT c, DROP level_mm"))
        .containsExactly(
            "rename level_cm to level",
            "add level_mm INTEGER after level",
            "add check c (level_mm > 0)",
            "set default level 5.0",
            "drop check c",
            "drop level_mm");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "MAKE level_cm|1|1|Expected: ADD ALTER DROP LAYOUT MOVE OPTIONS RENAME",
        "ADD|1|4|The SQL text ends too early",
        "ADD c|1|6|The SQL text ends too early",
        "ADD c INTEGRE|1|7|There is no type INTEGRE",
        "ADD c INTEGER, DROP d|1|16|There is no column d",
        "DROP id|1|1|Column id is in the primary key",
        "ALTER level_cm SET TYPE INTEGER|1|20|Expected: COMMENT DATA DEFAULT NOT",
        "ALTER level_cm SET DATA TYPE VARCHAR|1|30|It can become a DECIMAL",
        "ALTER level_cm SET DEFAULT level_cm|1|28|Columns cannot be used here",
        "ALTER level_cm SET DEFAULT 'x'|1|28|'x' is not a value of DECIMAL(7, 1)",
        "ADD CHECK level_cm > 1|1|11|Expected: (.",
        "ADD CHECK (level > 1)|1|12|There is no column level",
        "RENAME level_cm level|1|17|Expected: TO.",
        "MOVE level_cm|1|14|Expected: AFTER BEFORE FIRST LAST",
        "DROP level_cm CASCADE|1|15|CASCADE and RESTRICT are not supported",
        "DROP level_cm id|1|15|Expected: , CASCADE RESTRICT",
        "DROP 'x'|1|6|Encountered"
      })
  void whatIsWrongIsPointedAt(String actions, int line, int column, String why) {
    assertThatThrownBy(() -> SqlAlter.parse(actions, FORM))
        .isInstanceOfSatisfying(
            SqlTextException.class,
            e -> {
              assertThat(e.getMessage()).contains(why);
              assertThat(e.line()).isEqualTo(line);
              assertThat(e.column()).isEqualTo(column);
            });
  }

  @Test
  void whatIsReadCanBeDone() {
    FormEditor editor = new FormEditor(FORM, TableNumbers.of(FORM));
    SqlAlter.parse("ADD c ROW(a INTEGER, b VARCHAR ARRAY) COMMENT 'nested' FIRST, DROP marks", FORM)
        .forEach(editor::apply);
    assertThat(editor.form().schema().columns().get(0))
        .satisfies(
            field -> {
              assertThat(field.comment()).isEqualTo("nested");
              assertThat(field.type()).hasToString("ROW(a INTEGER, b VARCHAR ARRAY)");
            });
  }

  @Test
  void keysToLiftAreRead() {
    assertThat(SqlLift.parse("salinity"))
        .isEqualTo(new Lift("salinity", "salinity", Optional.empty()));
    assertThat(SqlLift.parse("health.\"a.b\" AS c DECIMAL(5, 1)"))
        .isEqualTo(new Lift("health.\"a.b\"", "c", Optional.of(Types.decimal(5, 1))));
    assertThatThrownBy(() -> SqlLift.parse("a b")).hasMessageContaining("Expected: AS");
  }
}
