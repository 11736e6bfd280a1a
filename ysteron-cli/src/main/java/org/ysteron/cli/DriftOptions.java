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
          "How to treat rows whose columns differ from the table's: strict, lenient, grow, set_aside or grow_or_set_aside (default: the table setting 'drift').")
  private Drift drift;

  @Option(names = "--ignore-case", description = "Match column names without regard to case.")
  private boolean ignoreCase;

  WriteRules applyTo(WriteRules own) {
    WriteRules rules = drift == null ? own : own.with(drift);
    return ignoreCase ? rules.ignoringCase() : rules;
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
