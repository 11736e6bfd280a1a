package org.ysteron.internal.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.error.DamagedException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

class EntryHeadTest {
  private static final Instant TIME = Instant.parse("2026-03-01T12:00:00.000001Z");
  private static final CommitStamp COMMIT =
      new CommitStamp(
          42,
          57,
          new UUID(3, 4),
          TIME,
          "Ada \"the\" Größte",
          "test 1",
          "a note\nof two lines",
          "load tide.readings");
  private static final CommitStamp SECOND =
      new CommitStamp(42, 58, new UUID(3, 5), TIME, "Bo", "test 2", "", "");
  private static final EntryHead.TableLine LINE =
      new EntryHead.TableLine(
          "tide.readings", new UUID(5, 6), 7, "append", new TableVersion.Counts(1, 2, 3, 4, 5));

  private final PageBatch batch = new PageBatch();
  private final PageRef page = batch.add(new byte[] {1, 2, 3});

  private static EntryHead head(PageRef page, EntryHead.CommitLines... commits) {
    return new EntryHead(
        new UUID(1, 2),
        42,
        TIME,
        40,
        "ab".repeat(32),
        List.of("masks"),
        List.of(),
        List.of(commits),
        page,
        EntryHead.Sum.NONE);
  }

  private EntryHead head() {
    return head(
        page,
        new EntryHead.CommitLines(COMMIT, Map.of("run", "7"), List.of(LINE)),
        new EntryHead.CommitLines(SECOND, Map.of(), List.of()));
  }

  private static byte[] encoded(EntryHead head, PageBatch pages) {
    byte[] own = pages.toByteArray();
    return new ByteOut().raw(head.encode(own.length, pages.next())).raw(own).toByteArray();
  }

  private byte[] encoded() {
    return encoded(head(), batch);
  }

  private static EntryHead parse(byte[] entry) {
    return EntryHead.parse(new Ledger.Start(entry, entry.length), 42, "ledger/x", Set.of("masks"));
  }

  private static List<String> lines(byte[] entry) {
    return new String(entry, StandardCharsets.UTF_8).lines().toList();
  }

  @Test
  void aHeadIsLinesOfJsonForPeople() {
    List<String> lines = lines(encoded());
    assertThat(lines).hasSize(7);
    assertThat(lines.get(0))
        .startsWith("{\"ysteron\":\"entry\",\"format\":1,\"readers must know\":[\"masks\"]")
        .contains("\"number\":42", "\"time\":\"2026-03-01T12:00:00.000001Z\"", "\"start\":40")
        .contains("\"first commit\":57");
    assertThat(lines.get(1))
        .startsWith("{\"commit\":\"00000000-")
        .contains("\"note\":\"a note\\nof two lines\"", "\"labels\":{\"run\":\"7\"}");
    assertThat(lines.get(2))
        .contains("\"table\":\"tide.readings\"", "\"version\":7", "\"rows removed\":4");
    assertThat(lines.get(3)).contains("\"author\":\"Bo\"");
    assertThat(lines.get(4)).startsWith("{\"pages\":3,\"lake page\":\"00");
    assertThat(lines.get(5)).matches("\\{\"head\":\"[0-9a-f]{64}\"}");
  }

  @Test
  void aHeadComesBackAsItWasWritten() {
    byte[] entry = encoded();
    EntryHead read = parse(entry);
    batch.settleInEntry(42, entry.length - 3);
    assertThat(read).isEqualTo(head().with(read.sum()));
    assertThat(read.stamps()).containsExactly(COMMIT, SECOND);
    assertThat(read.sum().length()).isEqualTo(entry.length - 3);
    assertThat(read.page().position()).isEqualTo(entry.length - 3L);
  }

  @Test
  void theHashCoversTheHeadAndThroughItAllPages() {
    String hash = parse(encoded()).sum().hash();
    PageBatch other = new PageBatch();
    PageRef otherPage = other.add(new byte[] {1, 2, 4});
    EntryHead changed = head(otherPage, new EntryHead.CommitLines(COMMIT, Map.of(), List.of()));
    assertThat(parse(encoded(changed, other)).sum().hash()).isNotEqualTo(hash);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "43 | 0 | it states number 42",
        "42 | 1 | with 2 bytes of pages, but|it says",
        "42 | 90 | its head has no end"
      })
  void anEntryAtTheWrongPlaceOrOfTheWrongLengthIsDamage(long number, int cut, String message) {
    byte[] entry = encoded();
    byte[] shorter = Arrays.copyOf(entry, entry.length - cut);
    assertThatThrownBy(
            () ->
                EntryHead.parse(
                    new Ledger.Start(shorter, shorter.length), number, "ledger/x", Set.of("masks")))
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
      assertThatThrownBy(() -> parse(flipped))
          .isInstanceOfAny(DamagedException.class, UnsupportedLakeException.class);
    }
    assertThatThrownBy(() -> parse(new byte[0])).isInstanceOf(DamagedException.class);
  }

  /** An entry whose lines were changed, with the right hash at their end. */
  private byte[] forged(UnaryOperator<String> change) {
    String text = new String(encoded(), StandardCharsets.UTF_8);
    String before = change.apply(text.substring(0, text.indexOf("{\"head\"")));
    String hash = EntryHead.hex(Sha256.of(before.getBytes(StandardCharsets.UTF_8)));
    String pages = text.substring(text.length() - 3);
    return (before + "{\"head\":\"" + hash + "\"}\n" + pages).getBytes(StandardCharsets.UTF_8);
  }

  @Test
  void whatANewerProgramWroteIsJudgedFromTheFirstLineAndNotCalledDamage() {
    byte[] newer = forged(text -> text.replace("\"format\":1", "\"format\":2"));
    assertThatThrownBy(() -> parse(newer))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessage(
            "The lake has format 2; this program knows formats up to 1. Use a newer Ysteron.");
    String line = new String(newer, StandardCharsets.UTF_8).lines().findFirst().orElseThrow();
    byte[] otherwise = (line + "\n{\"end\":\"another kind\"}\n").getBytes(StandardCharsets.UTF_8);
    assertThatThrownBy(() -> parse(otherwise)).isInstanceOf(UnsupportedLakeException.class);
    assertThatThrownBy(
            () ->
                EntryHead.parse(
                    new Ledger.Start(encoded(), encoded().length), 42, "ledger/x", Set.of()))
        .isInstanceOf(UnsupportedLakeException.class)
        .hasMessageContaining("needs the feature \"masks\"");
  }

  @Test
  void linesAndMembersOfALaterProgramArePassedOver() {
    byte[] more =
        forged(
            text ->
                text.replace("\"start\":40", "\"start\":40,\"weather\":\"fair\"")
                    .replace("{\"pages\"", "{\"drafts\":[1,2]}\n{\"pages\""));
    assertThat(parse(more).stamps()).containsExactly(COMMIT, SECOND);
  }
}
