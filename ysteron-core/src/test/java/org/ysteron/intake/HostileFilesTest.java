package org.ysteron.intake;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.RowsTaken;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;

/**
 * Files that nobody wrote with good intent: read, or refused by name and line, soon and in little
 * memory. {@code -Dysteron.inputs=100000} for the long run.
 */
@Timeout(600)
class HostileFilesTest {
  private static final int INPUTS = Integer.getInteger("ysteron.inputs", 4000);
  private static final long MOST_NANOS = 10_000_000_000L; // of a busy machine

  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.BIGINT),
          Field.of("level", Types.decimal(9, 2)),
          Field.of("x", Types.DOUBLE),
          Field.of("r", Types.REAL),
          Field.of("at", Types.INSTANT),
          Field.of("t", Types.text(9)),
          Field.of("doc", Types.JSON),
          Field.of("tags", Types.mapOf(Types.text(), Types.INTEGER)),
          Field.of("list", Types.listOf(Types.struct(Field.of("a", Types.DATE)))));

  private static final String CSV =
      "id,level,x,t,doc,tags\n1,2.50,1e3,\"a\"\"b\",\"{\"\"k\"\":[1,2]}\",\"{\"\"a\"\":1}\"\n,,,\"\",,\n";

  private static final String JSON =
      """
      {"id": 1, "level": "2.50", "x": -0.0, "r": 1.5, "at": "2026-03-01T12:00:00Z", "t": "é\\ud83d\\ude00"}
      [{"doc": {"k": [1, null, true]}, "tags": {"a": 1}, "list": [{"a": "2026-01-01"}, null]}]
      {"id": null, "t": ""}
      """;

  private static final String[] PARTS = {
    "1e999999999",
    "-",
    "\"",
    "\"\"",
    "{",
    "}",
    "[",
    "]",
    ",",
    ":",
    "\n",
    "\r",
    "\\u0000",
    "\\ud800",
    "NaN",
    "null",
    "9".repeat(2000),
    "[".repeat(3000),
    "{\"a\":".repeat(300),
    "\ufeff",
    "\u202e",
    "\\",
    "'",
    "true",
    "1".repeat(40),
    "0x1",
    "+1",
    "٣",
    "\u0000",
    "/*",
    "a".repeat(5000),
    "e",
    "."
  };

  @TempDir Path directory;

  private static String mutated(String text, Random random) {
    StringBuilder mutated = new StringBuilder(text);
    for (int times = 1 + random.nextInt(4); times > 0; times--) {
      int at = random.nextInt(mutated.length() + 1);
      int to = Math.min(mutated.length(), at + random.nextInt(6));
      switch (random.nextInt(4)) {
        case 0 -> mutated.insert(at, PARTS[random.nextInt(PARTS.length)]);
        case 1 -> mutated.delete(at, to);
        case 2 -> mutated.replace(at, to, PARTS[random.nextInt(PARTS.length)]);
        default -> mutated.insert(at, mutated.substring(at, to).repeat(random.nextInt(20)));
      }
    }
    return mutated.toString();
  }

  private static byte[] bytes(String text, Random random) {
    byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
    if (random.nextInt(5) == 0 && bytes.length > 0) {
      bytes[random.nextInt(bytes.length)] = (byte) random.nextInt(256);
    }
    return bytes;
  }

  @Test
  void whateverIsInAFileIsReadOrRefused() throws IOException {
    int refused = 0;
    for (long seed = 0; seed < INPUTS; seed++) {
      Random random = new Random(seed);
      boolean csv = random.nextBoolean();
      Path file = directory.resolve(csv ? "a.csv" : "a.json");
      Files.write(file, bytes(mutated(csv ? CSV : JSON, random), random));
      long start = System.nanoTime();
      try {
        if (random.nextBoolean()) {
          OutsideFile.of(file).read(SCHEMA, new RowsTaken());
        } else {
          OutsideFile.of(file).readNamed(new RowsTaken());
        }
        OutsideFile.of(file).columns();
      } catch (InvalidInputException e) {
        refused++;
        assertThat(e.getMessage()).as("seed %d", seed).contains("a.").hasSizeLessThan(4000);
      } catch (RuntimeException | Error e) {
        throw new AssertionError("seed " + seed + ": " + Files.readString(file), e);
      }
      assertThat(System.nanoTime() - start).as("time of seed %d", seed).isLessThan(MOST_NANOS);
    }
    assertThat(refused).isBetween(INPUTS / 4, INPUTS - 1);
  }

  private Path large(String name, String before, String again, int times) throws IOException {
    Path file = directory.resolve(name);
    try (Writer out = Files.newBufferedWriter(file)) {
      out.write(before);
      for (int i = 0; i < times; i++) {
        out.write(again);
      }
    }
    return file;
  }

  @Test
  void oneEndlessRowIsRefusedBeforeItIsInMemory() throws IOException {
    String some = "1234567,".repeat(1 << 10);
    for (Path file :
        new Path[] {
          large("array.jsonl", "{\"doc\": [", some, 1 << 13),
          large("text.jsonl", "{\"t\": \"", some, 1 << 13),
          large("members.jsonl", "{\"a\": 1", ",\"b\": 2 ".repeat(1 << 10), 1 << 13),
          large("quote.csv", "id\n\"", some, 1 << 13),
          large("fields.csv", "id\n", some, 1 << 13)
        }) {
      assertThatThrownBy(() -> OutsideFile.of(file).read(SCHEMA, new RowsTaken()))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining(file.getFileName().toString())
          .hasMessageMatching("(?s).{10,1000}");
      Files.delete(file);
    }
  }
}
