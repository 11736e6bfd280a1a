package org.ysteron.cli;

import java.io.PrintWriter;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** What all commands share. */
@Command
@SuppressWarnings("UnusedVariable") // picocli looks at the options
abstract class StandardCommand implements Callable<Integer> {
  @Spec private CommandSpec spec;

  @Option(names = "--trace", description = "Print a stack trace when the command fails.")
  private boolean trace;

  @Option(
      names = {"-h", "--help"},
      usageHelp = true,
      description = "Show this help.")
  private boolean help;

  final CommandSpec spec() {
    return spec;
  }

  PrintWriter out() {
    return spec.commandLine().getOut();
  }

  final PrintWriter err() {
    return spec.commandLine().getErr();
  }
}
