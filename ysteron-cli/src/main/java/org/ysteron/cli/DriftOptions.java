package org.ysteron.cli;

import org.ysteron.drift.Drift;
import org.ysteron.drift.WriteRules;
import picocli.CommandLine.Option;

/** How incoming rows meet the table. */
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

  @Option(
      names = "--leave-out",
      description = {
        "Leave out rows whose primary key another row has, and those that do not fit",
        "what others ask of rows meanwhile, and say which; else all are refused."
      })
  private boolean leaveOut;

  WriteRules applyTo(WriteRules own) {
    WriteRules rules = drift == null ? own : own.with(drift);
    rules = leaveOut ? rules.leavingOut() : rules;
    return anyCase ? rules.inAnyCase() : rules;
  }
}
