package org.ysteron.cli;

import java.nio.file.Path;
import org.ysteron.Lake;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

/** {@code ysteron create-lake}. */
@Command(
    name = "create-lake",
    description = "Create a lake in a directory.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron create-lake tidewatch")
final class CreateLakeCommand extends StandardCommand {
  @Parameters(
      paramLabel = "DIR",
      description = "Directory of the new lake; it is created if it does not exist.")
  private Path directory;

  @Override
  public Integer call() {
    try (Lake lake = Lake.create(directory)) {
      out().println("Created lake " + lake.id() + " in " + lake.location() + ".");
      return 0;
    }
  }
}
