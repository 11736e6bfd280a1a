package org.ysteron.bench;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Every benchmark runs, in a tiny form, and prints its ratios. */
class EveryBenchmarkTest {
  private static final Pattern RATIO =
      Pattern.compile("(?m)^ratio .+: (\\S+) \\((?:limit|at least) [0-9.]+\\) (ok|ABOVE|BELOW)$");

  @TempDir Path directory;

  static {
    System.setProperty(Size.PROPERTY, "true");
  }

  @BeforeAll
  static void all_are_tiny() {
    assertTrue(Size.IS_TINY);
  }

  static Map<String, Main.Benchmark> benchmarks() {
    Map<String, Main.Benchmark> all = Main.all();
    all.put("many-files --delay 1", new DelayedPlanBenchmark(1));
    return all;
  }

  static List<String> names() {
    return List.copyOf(benchmarks().keySet());
  }

  @ParameterizedTest
  @MethodSource("names")
  void runs_and_prints_its_ratios(String name) throws IOException {
    ByteArrayOutputStream printed = new ByteArrayOutputStream();
    PrintStream before = System.out;
    boolean kept;
    System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
    try {
      kept = benchmarks().get(name).run(directory);
    } finally {
      System.setOut(before);
    }
    String text = printed.toString(StandardCharsets.UTF_8);
    List<MatchResult> ratios = RATIO.matcher(text).results().toList();
    assertFalse(ratios.isEmpty(), text);
    for (MatchResult ratio : ratios) {
      double value = Double.parseDouble(ratio.group(1));
      assertTrue(Double.isFinite(value) && value >= 0, text);
    }
    boolean isWithin = ratios.stream().allMatch(ratio -> ratio.group(2).equals("ok"));
    assertEquals(isWithin, kept, text);
  }
}
