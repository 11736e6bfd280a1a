package org.ysteron.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Sha256;
import org.ysteron.error.DamagedException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.HistoryRecord;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageRef;

class EntryHeadTest {
  private static final CommitStamp COMMIT =
      new CommitStamp(
          42,
          new UUID(3, 4),
          Instant.parse("2026-03-01T12:00:00.000001Z"),
          "Ada \"the\" Größte",
          "test 1",
          "a note\nof two lines",
          "load tide.readings");

  private final PageBatch batch = new PageBatch();
  private final PageRef page = batch.add(new byte[] {1, 2, 3});

  private EntryHead head() {
    return new EntryHead(
        new UUID(1, 2),
        COMMIT,
        40,
        "ab".repeat(32),
        List.of("masks"),
        List.of(),
        List.of(
            new EntryHead.TableLine(
                "tide.readings",
                new UUID(5, 6),
                7,
                "append",
                new HistoryRecord.Counts(1, 2, 3, 4, 5))),
        page,
        java.util.Map.of("run", "7"),
        "");
  }

  private byte[] encoded() {
    return head().encode(batch.toByteArray(), batch.home()).bytes();
  }

  private static List<String> lines(byte[] entry) {
    return new String(entry, StandardCharsets.UTF_8).lines().toList();
  }

  @Test
  void aHeadIsLinesOfJsonForPeople() {
    List<String> lines = lines(encoded());
    assertThat(lines).hasSize(5);
    assertThat(lines.get(0))
        .startsWith("{\"ysteron\":\"entry\",\"format\":1,\"lake\":\"00000000-")
        .contains("\"number\":42", "\"time\":\"2026-03-01T12:00:00.000001Z\"", "\"start\":40")
        .contains("\"note\":\"a note\\nof two lines\"", "\"readers must know\":[\"masks\"]");
    assertThat(lines.get(1))
        .contains("\"table\":\"tide.readings\"", "\"version\":7", "\"rows removed\":4");
    assertThat(lines.get(2)).startsWith("{\"pages\":3,\"lake page\":\"00");
    assertThat(lines.get(3)).matches("\\{\"head\":\"[0-9a-f]{64}\"}");
  }

  @Test
  void aHeadComesBackAsItWasWritten() {
    EntryHead.Encoded encoded = head().encode(batch.toByteArray(), batch.home());
    EntryHead read = EntryHead.parse(encoded.bytes(), 42, "ledger/000/000/042");
    assertThat(read.commit()).isEqualTo(COMMIT);
    assertThat(read.hash()).isEqualTo(encoded.hash());
    assertThat(read.tables()).isEqualTo(head().tables());
    assertThat(read.mustRead()).containsExactly("masks");
    assertThat(read.parent()).isEqualTo("ab".repeat(32));
    assertThat(read.start()).isEqualTo(40);
    assertThat(read.page()).isEqualTo(page);
    assertThat(read.page().home().regionStart()).isEqualTo(encoded.pagesStart());
  }

  @Test
  void theHashCoversTheHeadAndThroughItAllPages() {
    String hash = head().encode(batch.toByteArray(), batch.home()).hash();
    PageBatch other = new PageBatch();
    PageRef otherPage = other.add(new byte[] {1, 2, 4});
    EntryHead changed =
        new EntryHead(
            new UUID(1, 2),
            COMMIT,
            40,
            "ab".repeat(32),
            List.of("masks"),
            List.of(),
            head().tables(),
            otherPage,
            java.util.Map.of(),
            "");
    assertThat(changed.encode(other.toByteArray(), other.home()).hash()).isNotEqualTo(hash);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "43 | 0 | it says that it is number 42",
        "42 | 1 | with 2 bytes of pages, but|it says",
        "42 | 90 | its head has no end"
      })
  void anEntryAtTheWrongPlaceOrOfTheWrongLengthIsDamage(long number, int cut, String message) {
    byte[] entry = encoded();
    byte[] shorter = Arrays.copyOf(entry, entry.length - cut);
    assertThatThrownBy(() -> EntryHead.parse(shorter, number, "ledger/x"))
        .isInstanceOf(DamagedException.class)
        .hasMessageStartingWith("Ledger entry ledger/x is damaged: ")
        .satisfies(e -> assertThat(cut == 1 || e.getMessage().contains(message)).isTrue());
  }

  @Test
  void aHeadWithoutItsHashIsDamage() {
    byte[] entry = encoded();
    for (int i = 0; i < entry.length - 3; i++) {
      byte[] flipped = entry.clone();
      flipped[i] ^= 1;
      assertThatThrownBy(() -> EntryHead.parse(flipped, 42, "ledger/x"))
          .isInstanceOf(DamagedException.class);
    }
    assertThatThrownBy(() -> EntryHead.parse(new byte[0], 42, "ledger/x"))
        .isInstanceOf(DamagedException.class);
  }

  @Test
  void aNewerFormatIsRefusedAndNotCalledDamage() {
    String text = new String(encoded(), StandardCharsets.UTF_8);
    String newer = text.replace("\"format\":1", "\"format\":2");
    int end = newer.indexOf("{\"head\"");
    String head = newer.substring(0, end);
    String hash =
        java.util.HexFormat.of().formatHex(Sha256.of(head.getBytes(StandardCharsets.UTF_8)));
    byte[] entry =
        (head + "{\"head\":\"" + hash + "\"}\n" + text.substring(text.length() - 3))
            .getBytes(StandardCharsets.UTF_8);
    assertThatThrownBy(() -> EntryHead.parse(entry, 42, "ledger/x"))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessage(
            "The lake has format 2; this program knows formats up to 1. Use a newer Ysteron.");
  }
}
