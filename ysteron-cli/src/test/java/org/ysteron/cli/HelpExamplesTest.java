package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import picocli.CommandLine;

/** The example at the end of each command's help does what it says, on the lake of the demo. */
class HelpExamplesTest {
  @TempDir private static Path shared;
  @TempDir private Path own;

  /** What some examples need beforehand. */
  private static final Map<String, List<List<String>>> BEFORE =
      Map.of(
          "erase", List.of(List.of("position", "bulletin", "--drop")),
          "bring-back", List.of(List.of("drop", "tide.gauges")),
          "load", List.of(List.of("rewind", "tide.readings", "--to", "0")),
          "tables", List.of(List.of("bookmark", "before-the-fix")),
          "lift", List.of(List.of("load", "tide.readings", "waves.jsonl", "--drift", "set_aside")));

  @BeforeAll
  static void makeDemo() throws IOException {
    Tool.Answer made = Tool.run("demo", shared.resolve("demo").toString());
    assertThat(made.code()).as(made.err()).isZero();
    Files.writeString(
        shared.resolve("demo/drops/waves.jsonl"),
        "{\"gauge_id\":\"ORR-01\",\"taken_at\":\"2026-09-01T00:00:00Z\",\"wave\":{\"height_m\":1.5}}\n");
  }

  static Stream<Arguments> examples() {
    return Main.commandLine().getSubcommands().entrySet().stream()
        .filter(command -> example(command.getValue()).startsWith("ysteron "))
        .map(command -> Arguments.of(command.getKey(), example(command.getValue())));
  }

  private static String example(CommandLine command) {
    String[] footer = command.getCommandSpec().usageMessage().footer();
    return footer.length == 0 ? "" : footer[footer.length - 1].strip();
  }

  @ParameterizedTest(name = "{1}")
  @MethodSource("examples")
  void theExampleRuns(String name, String example) {
    Path lake = own.resolve("lake");
    copy(shared.resolve("demo/tidewatch"), lake);
    for (List<String> before : BEFORE.getOrDefault(name, List.of())) {
      run(before, lake);
    }
    List<String> words = ToolPageTest.words(example);
    run(words.subList(1, words.size()), lake);
  }

  private void run(List<String> words, Path lake) {
    List<String> arguments = new ArrayList<>();
    for (String word : words) {
      Path drop = shared.resolve("demo/drops").resolve(word.replace('/', '_'));
      boolean isOwn = word.equals("tidewatch") || word.endsWith(".json") || word.startsWith("/tmp");
      arguments.add(
          Files.isRegularFile(drop)
              ? drop.toString()
              : isOwn ? own.resolve(word.substring(word.lastIndexOf('/') + 1)).toString() : word);
    }
    if (!List.of("demo", "create-lake").contains(words.get(0))) {
      arguments.addAll(List.of("--lake", lake.toString()));
    }
    Tool.Answer answer = Tool.run(arguments.toArray(String[]::new));
    assertThat(answer.err()).isEmpty();
    assertThat(answer.code()).isZero();
  }

  private static void copy(Path from, Path to) {
    try (Stream<Path> files = Files.walk(from)) {
      for (Path file : files.toList()) {
        Files.copy(file, to.resolve(from.relativize(file).toString()));
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }
}
