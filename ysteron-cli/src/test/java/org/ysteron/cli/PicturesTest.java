package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * {@code docs/screenshots/pictures.txt} has the text that the pictures there were made of: of each
 * the commands, behind {@code >}, and what they print on the demo's lake. Numbers and ids apart, it
 * is what they print now. With {@code -Dysteron.write=true} it is written anew.
 */
class PicturesTest {
  private static final Path TEXT = Path.of("../docs/screenshots/pictures.txt");
  private static final Pattern HEAD = Pattern.compile("(.*) \\| sed -n 1,(\\d+)p");

  @TempDir Path directory;

  @Test
  void thePicturesShowWhatTheCommandsPrint() throws IOException {
    List<String> kept = Files.readAllLines(TEXT);
    List<String> printed = new ArrayList<>();
    for (String line : kept) {
      if (line.startsWith("= ")) {
        printed.add(line);
      } else if (line.startsWith("> ")) {
        printed.add(line);
        printed.addAll(run(line.substring("> ysteron ".length())));
      }
    }
    if (Boolean.getBoolean("ysteron.write")) {
      Files.write(TEXT, printed);
      kept = Files.readAllLines(TEXT);
    }
    assertThat(withoutNumbers(printed)).isEqualTo(withoutNumbers(kept));
  }

  private List<String> run(String call) {
    Matcher head = HEAD.matcher(call);
    boolean cut = head.matches();
    List<String> words = ToolPageTest.words(cut ? head.group(1) : call);
    String[] arguments =
        words.stream()
            .map(word -> word.matches("demo(/.*)?") ? directory.resolve(word).toString() : word)
            .toArray(String[]::new);
    Tool.Answer answer =
        words.get(0).equals("demo")
            ? Tool.run("demo", arguments[1])
            : words.contains("--help")
                ? Tool.run(arguments)
                : new Tool(directory.resolve("demo/tidewatch")).on(arguments);
    List<String> lines =
        (answer.out() + answer.err())
            .replace(directory + "/", "")
            .replace(directory.toString(), "")
            .lines()
            .map(String::stripTrailing)
            .toList();
    return cut ? lines.subList(0, Integer.parseInt(head.group(2))) : lines;
  }

  /** What differs from run to run is taken out, and with it how far columns are apart. */
  private static String withoutNumbers(List<String> lines) {
    String user = Pattern.quote(System.getProperty("user.name"));
    return lines.stream()
        .map(line -> line.replaceAll("[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}", "ID"))
        .map(line -> line.replaceAll("\\b[0-9a-f]{64}\\b", "HASH"))
        .map(line -> line.replaceAll("\\b(" + user + "|root)\\b", "somebody"))
        .map(line -> line.replaceAll("\\d+([.,:TZ-]*\\d+)*Z?", "0").replaceAll(" +", " "))
        .map(line -> line.replaceAll("0 [KM]iB", "0 MiB"))
        .collect(Collectors.joining("\n"));
  }
}
