package org.ysteron.cli;

import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.ZoneId;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.text.Visible;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** The tool {@code ysteron}. */
@Command(
    name = "ysteron",
    description = "Transactional tables of Parquet files in a data lake.",
    version = "ysteron 0.1.0",
    synopsisSubcommandLabel = "COMMAND",
    exitCodeListHeading = "%nExit codes:%n",
    exitCodeList = {
      "0:Success.",
      "1:Failure. The message after 'error:' says why, and what was changed.",
      "2:Wrong call, such as an unknown option or a missing value.",
      "3:The check found damage.",
      "130:Cancelled by Ctrl-C. The message says what was committed before."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron demo")
@SuppressWarnings("UnusedVariable") // picocli looks at the options
public final class Main implements Runnable {
  static final String EXAMPLE = "%nExample:%n";

  @Spec private CommandSpec spec;

  @Option(
      names = {"-h", "--help"},
      usageHelp = true,
      description = "Show this help.")
  private boolean help;

  @Option(names = "--about", versionHelp = true, description = "Show the version of the tool.")
  private boolean about;

  private Main() {}

  /** Runs a command and ends the process with its exit code. */
  public static void main(String[] arguments) {
    PrintWriter out = new PrintWriter(System.out, false, StandardCharsets.UTF_8);
    PrintWriter err = new PrintWriter(System.err, true, StandardCharsets.UTF_8);
    Interruption.watch();
    int code = run(out, err, arguments);
    out.flush();
    Interruption.ended();
    System.exit(code);
  }

  /** Runs a command and returns its exit code. */
  static int run(PrintWriter out, PrintWriter err, String... arguments) {
    Output visible = new Output(out, Output.widthOf(Output.ON_TERMINAL));
    CommandLine line =
        commandLine(arguments)
            .setOut(visible)
            .setErr(new Output(err, Output.widthOf(Output.IS_WATCHED)));
    int code = line.execute(arguments);
    return visible.checkError() && code == 0 ? 1 : code;
  }

  /** The tool; a call that begins with a command needs that one only, and starts sooner. */
  static CommandLine commandLine(String... arguments) {
    CommandLine tool = new CommandLine(new Main());
    Commands.of(arguments).forEach(tool::addSubcommand);
    HelpPages.applyTo(tool);
    return tool.setColorScheme(HelpPages.COLOURS)
        .registerConverter(Duration.class, TimeText::duration)
        .registerConverter(ZoneId.class, TimeText::zone)
        .setCaseInsensitiveEnumValuesAllowed(true)
        .setUsageHelpWidth(Output.HELP_WIDTH)
        .setExpandAtFiles(false) // @ is before the name of a bookmark
        .setParameterExceptionHandler(Main::wrongCall)
        .setExecutionExceptionHandler(
            (failure, line, parsed) -> {
              boolean trace = line.getParseResult().hasMatchedOption("--trace");
              report(failure, line, trace);
              return 1;
            });
  }

  private static int wrongCall(ParameterException e, String[] arguments) {
    CommandLine line = e.getCommandLine();
    PrintWriter err = line.getErr();
    String said = String.valueOf(e.getMessage()).replaceFirst("^Error: ", "");
    err.println(error("error: ") + Visible.lines(said));
    if (!CommandLine.UnmatchedArgumentException.printSuggestions(e, err)) {
      err.println("See '" + line.getCommandSpec().qualifiedName() + " --help'.");
    }
    return 2;
  }

  private static void report(Exception failure, CommandLine line, boolean trace) {
    PrintWriter err = line.getErr();
    boolean known = failure instanceof YsteronException;
    String message = known ? failure.getMessage() : failure.toString();
    err.println(error("error: ") + Visible.lines(String.valueOf(message)));
    if (trace) {
      failure.printStackTrace(err);
    } else if (!known) {
      err.println(
          "This is an unexpected error. Add --trace to see where it happened, and report it.");
    }
  }

  private static String error(String text) {
    return Ansi.AUTO.string("@|bold,red " + text + "|@");
  }

  @Override
  public void run() {
    throw new ParameterException(spec.commandLine(), "Give a command, such as 'ysteron demo'.");
  }
}
