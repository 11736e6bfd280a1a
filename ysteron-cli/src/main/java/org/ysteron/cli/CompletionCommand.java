package org.ysteron.cli;

import picocli.AutoComplete;
import picocli.CommandLine.Command;

/** {@code ysteron completion}. */
@Command(
    name = "completion",
    description = "Print a completion script for bash and zsh.",
    footerHeading = Main.EXAMPLE,
    footer = "  source <(ysteron completion)")
final class CompletionCommand extends StandardCommand {
  @Override
  public Integer call() {
    out().print(AutoComplete.bash("ysteron", Main.commandLine()));
    return 0;
  }
}
