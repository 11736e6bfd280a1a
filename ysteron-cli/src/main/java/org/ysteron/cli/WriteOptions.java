package org.ysteron.cli;

import org.ysteron.Lake;
import picocli.CommandLine.Option;

/** What a commit says of itself. */
final class WriteOptions {
  @Option(
      names = "--note",
      paramLabel = "TEXT",
      defaultValue = "",
      description = "A note that the commit carries.")
  private String note;

  @Option(
      names = "--author",
      paramLabel = "NAME",
      defaultValue = "${env:YSTERON_AUTHOR:-${sys:user.name}}",
      description = "Who makes the commit (default: $YSTERON_AUTHOR, else your account).")
  private String author;

  Lake applyTo(Lake lake, String statement) {
    return lake.by(author, LakeCommand.PROGRAM).noting(note).because(statement);
  }
}
