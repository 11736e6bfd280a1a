package org.ysteron.cli;

import org.ysteron.EditableTable;
import org.ysteron.Table;
import picocli.CommandLine.Option;

/** To be told what a command would do, before it does it. */
final class RehearseOption {
  static final String NOTHING = "Rehearsed; nothing was changed. ";

  @Option(
      names = "--rehearse",
      description = "Say what it would do, or how it would fail, and change nothing.")
  private boolean rehearse;

  boolean isOn() {
    return rehearse;
  }

  /** The table to do it to. */
  EditableTable on(Table table) {
    return rehearse ? table.rehearsed() : table;
  }
}
