package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.util.OptionalLong;
import org.junit.jupiter.api.Test;
import org.ysteron.progress.Progress;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectOutput;

/** What who waits for a command is told. */
class ProgressTest {

  /** What goes to standard error while something takes some time. */
  private static String seen(boolean watched, long millis) throws InterruptedException {
    PrintStream before = System.err;
    ByteArrayOutputStream seen = new ByteArrayOutputStream();
    System.setErr(new PrintStream(seen, true, StandardCharsets.UTF_8));
    try (ProgressLine line = new ProgressLine(watched, "load", () -> "read 7 B")) {
      line.progress(new Progress("read day.csv", 50, OptionalLong.of(100), Progress.Unit.BYTES));
      Thread.sleep(millis);
    } finally {
      System.setErr(before);
    }
    return seen.toString(StandardCharsets.UTF_8);
  }

  @Test
  void itIsToldAfterTwoSecondsWithCounts() throws InterruptedException {
    assertThat(seen(true, 3500))
        .contains("load: ", " s, read day.csv: 50 B of 100 B, 50 %; read 7 B");
  }

  @Test
  void aStepSaysHowFarItIs() {
    assertThat(text(1200, OptionalLong.of(4000), Progress.Unit.FILES))
        .isEqualTo("check: 1,200 of 4,000 files, 30 %");
    assertThat(text(1200, OptionalLong.empty(), Progress.Unit.ROWS)).isEqualTo("check: 1,200 rows");
    assertThat(text(0, OptionalLong.of(0), Progress.Unit.PAGES)).isEqualTo("check: 0 pages");
  }

  private static String text(long done, OptionalLong total, Progress.Unit unit) {
    return ProgressLine.text(new Progress("check", done, total, unit));
  }

  @Test
  void nothingIsToldBeforeThatOrWhenNobodyWatches() throws InterruptedException {
    assertThat(seen(true, 300)).isEmpty();
    assertThat(seen(false, 2600)).isEmpty();
  }

  @Test
  void whatIsReadAndWrittenIsCounted() throws IOException {
    WatchedStore store = new WatchedStore(new MemoryStore());
    assertThat(store.told()).isEqualTo("read 0 B, opened 0 files, wrote 0 B");
    store.createIfAbsent("a/b", new byte[1000]);
    assertThat(store.createIfAbsent("a/b", new byte[9])).isFalse();
    try (ObjectOutput output = store.put("a/c")) {
      output.write(new byte[400]);
      output.write(1);
      output.commit();
    }
    store.read("a/b");
    store.readRange("a/c", 1, 100);
    try (ObjectInput input = store.open("a/c")) {
      input.read(0, 24);
    }
    assertThat(store.told()).isEqualTo("read 1.1 KiB, opened 1 file, wrote 1.4 KiB");
  }
}
