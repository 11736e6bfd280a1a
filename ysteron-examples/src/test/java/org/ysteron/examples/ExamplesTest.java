package org.ysteron.examples;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.examples.TideOffice.Reading;

class ExamplesTest {
  @TempDir Path directory;

  private interface Program {
    void start(String[] arguments) throws IOException;
  }

  private String run(Program program) throws IOException {
    PrintStream out = System.out;
    ByteArrayOutputStream caught = new ByteArrayOutputStream();
    try {
      System.setOut(new PrintStream(caught, true, StandardCharsets.UTF_8));
      program.start(new String[] {directory.resolve("lake").toString()});
    } finally {
      System.setOut(out);
    }
    return caught.toString(StandardCharsets.UTF_8);
  }

  @Test
  void recordsGoInAndOut() throws IOException {
    assertThat(run(RecordsInAndOut::main)).startsWith("5184 readings").contains(" cm\n");
  }

  @Test
  void packedFilesAreFewAndDrawn() throws IOException {
    assumeTrue(hasFonts(), "figures need a font");
    String lake = directory.resolve("lake").toString();
    String told = run(arguments -> PackedFiles.main(new String[] {lake, "5"}));
    assertThat(told).contains("as they were dropped    120 files").contains("along a curve");
    for (String figure : List.of("sizes.png", "sizes.svg", "opened.png", "opened-2.svg")) {
      assertThat(directory.resolve("lake").resolve(figure)).isNotEmptyFile();
    }
  }

  /** A machine without a screen may have no fonts either. */
  private static boolean hasFonts() {
    try {
      return new BufferedImage(1, 1, BufferedImage.TYPE_INT_RGB)
              .createGraphics()
              .getFontMetrics()
              .stringWidth("m")
          > 0;
    } catch (RuntimeException | Error e) {
      return false;
    }
  }

  @Test
  void timeTravelShowsEachDay() throws IOException {
    assertThat(run(TimeTravel::main))
        .contains("now:             2304", "at version 1:    576", "the lake then:   1152");
  }

  @Test
  void eachChangeIsInOneBulletin() throws IOException {
    assertThat(run(SinceTheBulletin::main))
        .contains(
            "The first bulletin has 1728 readings.",
            "The next bulletin has 3456 readings: 1728 are new, 140 were corrected.",
            "Nothing has changed since the last bulletin.");
  }

  @Test
  void aWrongCorrectionIsSeen() throws IOException {
    assumeTrue(hasFonts(), "figures need a font");
    assertThat(run(WrongCorrection::main)).contains("level_cm", "by 12", "at least and 12");
    assertThat(directory.resolve("lake/levels.png")).isNotEmptyFile();
    assertThat(directory.resolve("lake/levels.svg")).isNotEmptyFile();
  }

  @Test
  void aBulletinIsComputedAgainFromItsInputs() throws IOException {
    assertThat(run(BulletinInputs::main)).contains("the same inputs:            true");
  }

  @Test
  void streamsAndCountsGoOnSideBySide() throws IOException {
    String lake = directory.resolve("streams").toString();
    String shown = run(ignored -> LiveStreams.main(new String[] {lake, "2"}));
    assertThat(shown).contains("consistent").doesNotContain("NOT CONSISTENT");
    java.util.regex.Matcher end =
        java.util.regex.Pattern.compile(
                "wrote (\\d+) rows in \\d+ versions; the followers have (\\d+) and (\\d+); the table has (\\d+)")
            .matcher(shown);
    assertThat(end.find()).isTrue();
    assertThat(List.of(end.group(2), end.group(3), end.group(4))).containsOnly(end.group(1));
  }

  @Test
  void theSameSeedGivesTheSameWorldAndATideLooksLikeOne() {
    List<Reading> one = new ArrayList<>();
    List<Reading> two = new ArrayList<>();
    new TideOffice(7, 3).readings(0, 2, 10, one::add);
    new TideOffice(7, 3).readings(0, 2, 10, two::add);
    assertThat(one).isEqualTo(two).hasSize(3 * 2 * 144);
    double high =
        one.stream()
            .filter(reading -> reading.level_cm() != null)
            .mapToDouble(reading -> reading.level_cm().doubleValue())
            .max()
            .orElseThrow();
    assertThat(high).isBetween(450.0, 620.0);
    assertThat(new TideOffice(7, 40).gauges()).hasSize(40);
    assertThat(new TideOffice(7, 3).calls(50))
        .isSortedAccordingTo(java.util.Comparator.comparing(TideOffice.Call::arrival));
  }
}
