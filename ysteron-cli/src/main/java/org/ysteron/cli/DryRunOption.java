package org.ysteron.cli;

import org.ysteron.EditableTable;
import org.ysteron.Table;
import picocli.CommandLine.Option;

/** To be told what a command would do, before it does it. */
final class DryRunOption {
  static final String NOTHING = "Dry run; nothing was changed. ";

  @Option(
      names = "--dry-run",
      description = "Report what the command would do, and change nothing.")
  private boolean dryRun;

  boolean isOn() {
    return dryRun;
  }

  /** The table to do it to. */
  EditableTable on(Table table) {
    return dryRun ? table.dryRun() : table;
  }
}
