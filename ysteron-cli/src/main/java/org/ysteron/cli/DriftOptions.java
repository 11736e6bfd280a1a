package org.ysteron.cli;

import java.io.PrintWriter;
import org.ysteron.option.Drift;
import org.ysteron.option.WriteRules;
import org.ysteron.report.Grown;
import picocli.CommandLine.Option;

/** How incoming rows meet the table. */
final class DriftOptions {
  @Option(
      names = "--drift",
      paramLabel = "HOW",
      description =
          "When the rows do not have the table's columns: strict, lenient, grow, set_aside or grow_or_set_aside (default: the table's own rule, which is strict unless it was set).")
  private Drift drift;

  @Option(
      names = "--any-case",
      description = "Names that differ from a column's by case only mean that column.")
  private boolean anyCase;

  WriteRules applyTo(WriteRules own) {
    WriteRules rules = drift == null ? own : own.with(drift);
    return anyCase ? rules.inAnyCase() : rules;
  }

  /** Says how a table has grown. */
  static void tell(Grown grown, PrintWriter out) {
    grown.columns().forEach(column -> out.println(sentence(column.toString())));
    grown.words().forEach(word -> out.println(sentence(word)));
  }

  private static String sentence(String words) {
    return Character.toUpperCase(words.charAt(0)) + words.substring(1) + ".";
  }
}
