package org.ysteron.intake;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.RowsTaken;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;

class OutsideFileTest {
  @TempDir Path directory;

  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.text(4)).notNull(),
          Field.of("level", Types.decimal(5, 1)),
          Field.of("day", Types.DATE).withDefault(LocalDate.of(2026, 1, 1)),
          Field.of("tags", Types.mapOf(Types.text(), Types.INTEGER)));

  private List<Object[]> read(String name, String content) {
    try {
      Path file = directory.resolve(name);
      Files.writeString(file, content);
      RowsTaken rows = new RowsTaken();
      OutsideFile.of(file).read(SCHEMA, rows);
      return rows.rows().stream().map(row -> (Object[]) row).toList();
    } catch (IOException e) {
      throw new java.io.UncheckedIOException(e);
    }
  }

  @Test
  void csvColumnsComeInAnyOrderAndMayBeLeftOut() {
    List<Object[]> rows = read("a.csv", "level,id\r\n1.5,\"a,\"\"b\"\n,c\n\n");
    assertThat(rows).hasSize(2);
    assertThat(rows.get(0))
        .containsExactly("a,\"b", new BigDecimal("1.5"), LocalDate.of(2026, 1, 1), null);
    assertThat(rows.get(1)).containsExactly("c", null, LocalDate.of(2026, 1, 1), null);
  }

  @Test
  void jsonLinesHoldNestedValues() {
    List<Object[]> rows =
        read("a.jsonl", "{\"id\": \"a\", \"tags\": {\"x\": 1}, \"level\": 2}\n\n{\"id\":\"b\"}\n");
    assertThat(rows.get(0))
        .containsExactly("a", new BigDecimal("2.0"), LocalDate.of(2026, 1, 1), Map.of("x", 1));
    assertThat(rows).hasSize(2);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "id,level;a,ERR | line 2: column level (DECIMAL(5, 1)): 'ERR' is not a value",
        "id,level;a,1;b,1.25 | line 3: column level (DECIMAL(5, 1)): 1.25 has more decimal places than the 1",
        "id,level;a,99999 | line 2: column level (DECIMAL(5, 1)): 99999 is out of the range",
        "id,lvl;a,1 | line 1: the table has no column lvl. Did you mean level?",
        "level;1 | line 1: column id is missing",
        "id,id;a,b | line 1: the header names column 'id' twice",
        "id;a;b,c | line 3: the CSV is broken: Record 3 has 2 fields, but first record had 1 fields",
        "id;a;^b^x | line 3: the CSV is broken",
        "id;a;^b;c | line 3: the CSV is broken",
        "id,level;,1 | line 2: column id (VARCHAR(4)): null, but id is NOT NULL",
        "id;abcde | line 2: column id (VARCHAR(4)): 'abcde' has 5 characters"
      })
  void wrongCsvIsNamedByLine(String csv, String message) {
    assertThatThrownBy(() -> read("x.csv", csv.replace(';', '\n').replace('^', '"')))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("x.csv, " + message)
        .hasMessageEndingWith("Nothing was changed.");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "{'id': 'a', 'x': 1} | line 1: the table has no column x",
        "{'id': 'a'};{'id': | line 2: it is not JSON",
        "[1] | line 1: it is not a JSON object",
        "{'id': 'a', 'level': true} | line 1: column level (DECIMAL(5, 1)): 'true' is not",
        "{'id': 'a', 'id': 'b'} | line 1: it is not JSON: Duplicate",
        "{'level': 1} | line 1: column id is missing"
      })
  void wrongJsonIsNamedByLine(String json, String message) {
    assertThatThrownBy(() -> read("x.jsonl", json.replace(';', '\n').replace('\'', '"')))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("x.jsonl, " + message);
  }

  @Test
  void filesThatCannotBeReadAreNamed() throws IOException {
    assertThatThrownBy(() -> OutsideFile.of(Path.of("a.xls")))
        .hasMessageContaining("Use the extension .csv or .jsonl");
    Path none = directory.resolve("none.csv");
    assertThatThrownBy(() -> OutsideFile.of(none).read(SCHEMA, new RowsTaken()))
        .hasMessageContaining("File not found");
    Path latin = directory.resolve("latin.csv");
    Files.write(latin, new byte[] {'i', 'd', '\n', (byte) 0xe9, '\n'});
    assertThatThrownBy(() -> OutsideFile.of(latin).read(SCHEMA, new RowsTaken()))
        .hasMessageContaining("is not valid UTF-8");
  }
}
