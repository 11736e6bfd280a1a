package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import picocli.CommandLine;
import picocli.CommandLine.Help.Ansi;

/**
 * {@code docs/tool.md} is what the commands say of themselves. With {@code -Dysteron.write=true} it
 * is written anew.
 */
class ToolPageTest {
  private static final Path PAGE = Path.of("../docs/tool.md");
  private static final String HEAD =
      """
      # The tool

      What `ysteron COMMAND --help` prints, made from the commands themselves
      (`mvn -pl ysteron-cli -am test -Dtest=ToolPageTest -Dsurefire.failIfNoSpecifiedTests=false -Dysteron.write=true`).
      """;

  private static String shown(String usage) {
    StringBuilder page = new StringBuilder("\n");
    usage.lines().forEach(line -> page.append(line.isEmpty() ? "" : "    " + line).append('\n'));
    return page.toString();
  }

  private static String page() {
    CommandLine tool = Main.commandLine();
    StringBuilder page = new StringBuilder(HEAD).append(shown(tool.getUsageMessage(Ansi.OFF)));
    for (Map.Entry<String, CommandLine> command : tool.getSubcommands().entrySet()) {
      if (!command.getKey().equals("help")) {
        page.append("\n## ").append(command.getKey()).append('\n');
        page.append(shown(command.getValue().getUsageMessage(Ansi.OFF)));
      }
    }
    return page.toString();
  }

  @Test
  void thePageIsWhatTheCommandsSay() throws IOException {
    if (Boolean.getBoolean("ysteron.write")) {
      Files.writeString(PAGE, page());
    }
    assertThat(Files.readString(PAGE)).isEqualTo(page());
  }

  @Test
  void everyCommandEndsWithAnExampleThatItUnderstands() {
    for (Map.Entry<String, CommandLine> command : Main.commandLine().getSubcommands().entrySet()) {
      if (List.of("help", "completion").contains(command.getKey())) {
        continue;
      }
      List<String> usage = command.getValue().getUsageMessage(Ansi.OFF).lines().toList();
      assertThat(usage.get(usage.size() - 2)).isEqualTo("Example:");
      String example = usage.get(usage.size() - 1);
      List<String> words = words(example.strip());
      assertThat(words.get(0)).isEqualTo("ysteron");
      CommandLine.ParseResult parsed =
          Main.commandLine().parseArgs(words.subList(1, words.size()).toArray(String[]::new));
      assertThat(parsed.subcommand().commandSpec().name()).isEqualTo(command.getKey());
    }
  }

  @Test
  void everyCommandIsListedUnderOneSubject() {
    List<String> listed = new ArrayList<>();
    HelpPages.SUBJECTS.values().forEach(listed::addAll);
    assertThat(listed)
        .containsExactlyInAnyOrderElementsOf(Main.commandLine().getSubcommands().keySet());
  }

  /** picocli calls a command as it is registered, and its help as its annotation says. */
  @Test
  void aCallMakesItsOwnCommandOnly() {
    for (String name : Main.commandLine().getSubcommands().keySet()) {
      CommandLine tool = Main.commandLine(name, "--help");
      assertThat(tool.getSubcommands().get(name).getCommandSpec().userObject().getClass())
          .satisfies(
              of -> assertThat(of.getAnnotation(CommandLine.Command.class).name()).isEqualTo(name));
      assertThat(tool.getSubcommands().size())
          .isEqualTo(name.equals("help") ? Main.commandLine().getSubcommands().size() : 1);
    }
  }

  /** The words of a call, as a shell takes it apart. */
  static List<String> words(String call) {
    List<String> words = new ArrayList<>();
    var word = java.util.regex.Pattern.compile("\"([^\"]*)\"|(\\S+)").matcher(call);
    while (word.find()) {
      words.add(word.group(1) == null ? word.group(2) : word.group(1));
    }
    return words;
  }
}
