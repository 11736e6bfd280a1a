package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import picocli.CommandLine;

class ListingTest {
  private final StringWriter written = new StringWriter();
  private final PrintWriter out = new PrintWriter(written);

  /** Lists as a command does that was called with these options. */
  private Listing listing(List<String> columns, String... options) {
    Listing.Options parsed = new Listing.Options();
    CommandLine line = new CommandLine(CommandLine.Model.CommandSpec.forAnnotatedObject(parsed));
    line.setCaseInsensitiveEnumValuesAllowed(true).parseArgs(options);
    return parsed.listing(out, columns);
  }

  private String text() {
    out.flush();
    return written.toString();
  }

  @Test
  void numbersAreToTheRightAndTextToTheLeft() {
    Listing list = listing(List.of("name", "count", "when"));
    list.row("a", 1, Instant.EPOCH);
    list.row("longer", 1234, null);
    list.row(null, null, Instant.EPOCH);
    list.end();
    assertThat(text())
        .isEqualTo(
            """
            name    count  when
            a           1  1970-01-01T00:00:00Z
            longer   1234  –
            –           –  1970-01-01T00:00:00Z
            """);
  }

  @Test
  void longListingsKeepTheWidthsOfTheirFirstRows() {
    Listing list = listing(List.of("n"));
    for (int i = 0; i < 1200; i++) {
      list.row(i);
    }
    list.end();
    List<String> lines = text().lines().toList();
    assertThat(lines).hasSize(1201);
    assertThat(lines.get(1)).isEqualTo("  0");
    assertThat(lines.get(1200)).isEqualTo("1199");
  }

  @Test
  void nestedValuesAreJson() {
    Type.Struct struct =
        (Type.Struct)
            Types.struct(Field.of("kind", Types.text()), Field.of("depth", Types.decimal(5, 2)));
    Row row = Row.of(struct, "radar", new BigDecimal("1.50"));
    assertThat(Listing.text(List.of(row))).isEqualTo("[{\"kind\":\"radar\",\"depth\":1.50}]");
    assertThat(Listing.text(Map.of("k", 1))).isEqualTo("{\"k\":1}");
    assertThat(Listing.text(new byte[] {1, 2})).isEqualTo("0102");
    assertThat(Listing.text(Arrays.asList("x", null))).isEqualTo("[\"x\",null]");
    assertThat(Listing.text(new BigDecimal("1E+3"))).isEqualTo("1000");
    assertThat(Listing.text("a\tb")).isEqualTo("a\\u0009b");
  }

  @Test
  void jsonIsOneArrayOfObjects() {
    Listing list = listing(List.of("a", "b"), "--format", "json");
    list.row(1, "x \"y\"");
    list.row(null, new BigDecimal("0.10"));
    list.end();
    assertThat(text())
        .isEqualTo("[\n  {\"a\":1,\"b\":\"x \\\"y\\\"\"},\n  {\"a\":null,\"b\":0.10}\n]\n");
    assertThat((List<?>) Json.parse(text())).hasSize(2);
  }

  @Test
  void csvIsQuotedWhereItMustBe() {
    Listing list = listing(List.of("a", "b c"), "--format", "csv");
    list.row("x,y", "say \"hi\"");
    list.row(null, 5);
    list.end();
    assertThat(text()).isEqualTo("a,b_c\n\"x,y\",\"say \"\"hi\"\"\"\n,5\n");
  }

  @Test
  void sizesAndCountsAreForPeople() {
    assertThat(Listing.bytes(1023)).isEqualTo("1023 B");
    assertThat(Listing.bytes(1024)).isEqualTo("1.0 KiB");
    assertThat(Listing.bytes(5L << 40)).isEqualTo("5.0 TiB");
    assertThat(Listing.count(0, "row", "rows")).isEqualTo("0 rows");
    assertThat(Listing.count(1_234_567, "row", "rows")).isEqualTo("1,234,567 rows");
  }

  @Test
  void whatIsNotListedIsTold() {
    Listing.tellMore(new PrintWriter(out, true), 50, 50, "versions");
    Listing.tellMore(new PrintWriter(out, true), 1000, 12_345, "files");
    assertThat(text()).isEqualTo("1,000 of 12,345 files; --limit lists more.\n");
  }

  @Test
  void linesAreBrokenBetweenWordsAndColumnsAreLeftAlone() {
    String bold = "\u001b[1m";
    assertThat(Output.wrapped("  one two three four", 11)).isEqualTo("  one two\n  three\n  four");
    assertThat(Output.wrapped(bold + "error: \u001b[0mab cd", 12))
        .isEqualTo(bold + "error: \u001b[0mab cd");
    assertThat(Output.wrapped("a  b  column of a table", 8)).isEqualTo("a  b  column of a table");
    assertThat(Output.wrapped("averylongword x", 4)).isEqualTo("averylongword\nx");
    assertThat(Output.wrapped("", 4)).isEmpty();
  }

  @Test
  void jsonIsNotBroken() {
    StringWriter narrow = new StringWriter();
    PrintWriter out = new Output(new PrintWriter(narrow), 10);
    out.println("some words of prose");
    Listing.object(out, Map.of("note", "some words of a note"));
    out.flush();
    assertThat(narrow.toString().lines())
        .containsExactly("some words", "of prose", "{\"note\":\"some words of a note\"}");
  }
}
