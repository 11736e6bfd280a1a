package org.ysteron.cli;

import java.time.Duration;
import org.ysteron.option.Budget;
import picocli.CommandLine.Option;

/** How much is done. */
final class BudgetOptions {
  @Option(
      names = "--bytes",
      paramLabel = "N",
      description = "Start no more work after this many bytes of files were read or deleted.")
  private Long bytes;

  @Option(
      names = "--files",
      paramLabel = "N",
      description = "Start no more work after this many files were read or deleted.")
  private Long files;

  @Option(
      names = "--time",
      paramLabel = "DURATION",
      description = "Start no more work after this time, such as PT10M (ISO 8601 duration).")
  private Duration time;

  Budget budget() {
    Budget budget = Budget.ALL;
    budget = bytes == null ? budget : budget.ofBytes(bytes);
    budget = files == null ? budget : budget.ofFiles(files);
    return time == null ? budget : budget.ofTime(time);
  }
}
