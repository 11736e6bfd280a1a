package org.ysteron.cli;

import org.ysteron.change.Drift;
import org.ysteron.change.WriteRules;
import picocli.CommandLine.Option;

/** How the columns of incoming rows meet those of the table. */
final class DriftOptions {
  @Option(
      names = "--drift",
      paramLabel = "HOW",
      description = {
        "When the rows do not have the table's columns: strict, lenient, grow or set_aside",
        "(default: the table's own rule, which is strict unless it was set)."
      })
  private Drift drift;

  @Option(
      names = "--any-case",
      description = "Names that differ from a column's by case only mean that column.")
  private boolean anyCase;

  WriteRules applyTo(WriteRules own) {
    WriteRules rules = drift == null ? own : own.with(drift);
    return anyCase ? rules.inAnyCase() : rules;
  }
}
