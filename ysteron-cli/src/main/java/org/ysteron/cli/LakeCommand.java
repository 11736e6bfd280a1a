package org.ysteron.cli;

import java.nio.file.Path;
import org.ysteron.Lake;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** What all commands on a lake share. */
@Command
abstract class LakeCommand extends StandardCommand {
  static final String PROGRAM = "ysteron 0.1.0";

  @Option(
      names = {"-l", "--lake"},
      paramLabel = "DIR",
      defaultValue = "${env:YSTERON_LAKE:-.}",
      description = "The lake's directory (default: $YSTERON_LAKE, else the current directory).")
  private Path lake;

  final Path directory() {
    return lake;
  }

  @Override
  public Integer call() {
    try (Lake opened = Lake.open(lake)) {
      run(opened);
      return 0;
    }
  }

  /** Does the command's work on the open lake. */
  abstract void run(Lake opened);
}
