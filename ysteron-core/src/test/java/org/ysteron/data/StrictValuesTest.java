package org.ysteron.data;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.Utf8;

/** What is no value of a type is refused, and what would take all memory is refused at once. */
@Timeout(5)
class StrictValuesTest {
  private static final List<Type> NUMBERS =
      List.of(Types.INTEGER, Types.BIGINT, Types.REAL, Types.DOUBLE, Types.decimal(38, 5));

  @ParameterizedTest
  @ValueSource(
      strings = {
        "+1", "\u0663", "1\u0664", "01", ".5", "1.", "1e", "0x10", " 1", "1 ", "", "1_0", "--1",
        "\uff11"
      })
  void numbersAreWrittenAsJsonWritesThem(String text) {
    for (Type type : NUMBERS) {
      assertThatThrownBy(() -> ValueText.parse(text, type))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("is not a value of " + type);
    }
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "1e999999999",
        "-1e-999999999",
        "1e2147483648",
        "1E99999999999999999999",
        "1e1001"
      })
  void numbersBeyondAllBoundsAreRefusedAtOnce(String text) {
    for (Type type : NUMBERS) {
      assertThatThrownBy(() -> ValueText.parse(text, type))
          .isInstanceOf(InvalidInputException.class);
    }
    for (String json : List.of(text, "[" + text + "]", "{\"a\": {\"b\": " + text + "}}")) {
      assertThatThrownBy(() -> Json.parse(json)).isInstanceOf(InvalidInputException.class);
      assertThatThrownBy(() -> Values.accept(json, Types.JSON))
          .isInstanceOf(InvalidInputException.class);
    }
  }

  @Test
  void tenMillionDigitsAreRefusedAtOnce() {
    String digits = "7".repeat(10_000_000);
    for (Type type : NUMBERS) {
      assertThatThrownBy(() -> ValueText.parse(digits, type))
          .isInstanceOf(InvalidInputException.class);
      assertThatThrownBy(() -> ValueText.parse("0." + digits, type))
          .isInstanceOf(InvalidInputException.class);
    }
    assertThatThrownBy(() -> Json.parse(digits)).isInstanceOf(InvalidInputException.class);
    BigInteger large = BigInteger.ONE.shiftLeft(30_000_000);
    Type type = Types.decimal(38, 0);
    for (BigDecimal number :
        List.of(
            new BigDecimal(large),
            new BigDecimal(large, 40_000_000),
            new BigDecimal(BigInteger.ONE, -999_999_999),
            new BigDecimal(BigInteger.ONE, 999_999_999))) {
      assertThatThrownBy(() -> Values.accept(number, type))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("is not a supported number")
          .hasMessageMatching("(?s).{1,400}");
      assertThat(Values.literal(number)).hasSizeLessThan(200);
      assertThat(Values.show(number)).hasSizeLessThan(200);
    }
    assertThat(Values.accept(new BigDecimal(BigInteger.ZERO, -999_999_999), type))
        .isEqualTo(BigDecimal.ZERO);
  }

  @Test
  void theGreatestNumbersThereAreAreTaken() {
    assertThat(ValueText.parse("1.7976931348623157e308", Types.DOUBLE)).isEqualTo(Double.MAX_VALUE);
    assertThat(ValueText.parse("4.9E-324", Types.DOUBLE)).isEqualTo(Double.MIN_VALUE);
    BigDecimal most = new BigDecimal("9".repeat(38));
    assertThat(ValueText.parse(most.toString(), Types.decimal(38, 0))).isEqualTo(most);
    assertThat(ValueText.parse("1e3", Types.decimal(5, 1))).isEqualTo(new BigDecimal("1000.0"));
    String exact = new BigDecimal(Double.MIN_VALUE).toPlainString();
    assertThat(exact).hasSizeGreaterThan(1000);
    assertThat(ValueText.parse(exact, Types.DOUBLE)).isEqualTo(Double.MIN_VALUE);
  }

  @Test
  void halfACharacterIsRefusedWhereverItIs() {
    String half = "a\ud800b";
    Type map = Types.mapOf(Types.text(), Types.text());
    Type struct = new Type.Struct(List.of(Field.of("f", Types.text())));
    List<Runnable> attempts =
        List.of(
            () -> Values.accept(half, Types.text()),
            () -> Values.accept("\udc00", Types.text()),
            () -> Values.accept(List.of(half), Types.listOf(Types.text())),
            () -> Values.accept(Map.of(half, "x"), map),
            () -> Values.accept(Map.of("x", half), map),
            () -> Values.accept(Row.of((Type.Struct) struct, half), struct),
            () -> Values.accept("[\"\\ud800\"]", Types.JSON),
            () -> Values.accept("{\"\\udfff\": 1}", Types.JSON),
            () -> Values.accept("\"" + half + "\"", Types.JSON),
            () -> ValueText.parse(half, Types.text(9)));
    for (Runnable attempt : attempts) {
      assertThatThrownBy(attempt::run)
          .isInstanceOf(InvalidInputException.class)
          .hasMessageMatching("(?s).*(half of a character|surrogate).*");
    }
    assertThat(Values.accept("a\ud83d\ude00", Types.text(2))).isEqualTo("a\ud83d\ude00");
  }

  @Test
  void theSignOfZeroComesBackFromJson() {
    for (String text : List.of("-0.0", "-0", "-0e5")) {
      assertThat(Json.fromJson(Json.parse(text), Types.DOUBLE)).isEqualTo(-0.0);
      assertThat(Json.fromJson(Json.parse(text), Types.REAL)).isEqualTo(-0.0f);
      assertThat(Json.fromJson(Json.parse(text), Types.INTEGER)).isEqualTo(0);
      assertThat(Json.fromJson(Json.parse(text), Types.decimal(3, 1)))
          .isEqualTo(new BigDecimal("0.0"));
    }
    assertThat(Json.write(Json.parse("[-0.0, 0.0, 0]"))).isEqualTo("[-0.0,0.0,0]");
  }

  @Test
  void parsedNumbersHaveTheLeastClassThatHoldsThem() {
    assertThat(Json.parse("[1, -2147483649, 9223372036854775807, 9223372036854775808, 1.50, 1e2]"))
        .isEqualTo(
            List.of(
                1,
                -2147483649L,
                Long.MAX_VALUE,
                BigInteger.ONE.shiftLeft(63),
                new BigDecimal("1.50"),
                new BigDecimal("1e2")));
    assertThat(Json.parse("{\"b\": null, \"a\": [true, false, \"x\"]}"))
        .isEqualTo(Members.of("b", null, "a", List.of(true, false, "x")));
  }

  @Test
  void bytesAreTextOnlyInUtf8() {
    assertThat(Utf8.isWhole(new byte[] {'a', (byte) 0xc3, (byte) 0xa9, 'b'}, 0, 4)).isTrue();
    assertThat(Utf8.isWhole(new byte[] {'a', (byte) 0xc3, (byte) 0xa9, 'b'}, 0, 2)).isFalse();
    assertThat(Utf8.isWhole(new byte[] {(byte) 0xed, (byte) 0xa0, (byte) 0x80}, 0, 3)).isFalse();
    assertThat(Utf8.isWhole(new byte[] {(byte) 0xc0, (byte) 0x80}, 0, 2)).isFalse();
  }
}
