package org.ysteron.internal.layout;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.LayoutPlan;

/** What is printed of a layout is read again as the same. */
class LayoutTextTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("odd name", Types.INTEGER),
          Field.of("a.b", Types.INTEGER),
          Field.of("q\"x, (y)", Types.INTEGER),
          Field.of("every", Types.DATE),
          Field.of("raw", Types.BINARY),
          Field.of("in", Types.struct(Field.of("a name", Types.text()))));

  @ParameterizedTest
  @ValueSource(
      strings = {
        "hash \"odd name\" into 3",
        "range \"a.b\" every 5",
        "list \"q\"\"x, (y)\"",
        "range every every 1 month",
        "range raw at X'00', X'0aff'",
        "list in.\"a name\" of ('x', 'it''s', 'a\\\\n', ''), ('y')",
        "list in.\"a name\" of ('(', ',')"
      })
  void columnsWithOddNamesHaveRules(String rule) {
    String told = LayoutText.bind(LayoutPlan.none().rule(rule), SCHEMA).text(SCHEMA);
    assertThat(LayoutText.bind(LayoutPlan.none().rule(told), SCHEMA).text(SCHEMA)).isEqualTo(told);
    assertThat(
            LayoutText.bind(LayoutPlan.none().sortedBy("\"odd name\" descending"), SCHEMA)
                .text(SCHEMA))
        .isEqualTo("sorted by \"odd name\" descending");
  }

  @ParameterizedTest
  @ValueSource(strings = {"", "hash", "hash ", "hash \"odd name into 3", "range every every 1e999"})
  void whatIsNoRuleIsRefused(String rule) {
    assertThatThrownBy(() -> LayoutText.bind(LayoutPlan.none().rule(rule), SCHEMA))
        .isInstanceOf(InvalidInputException.class);
  }
}
