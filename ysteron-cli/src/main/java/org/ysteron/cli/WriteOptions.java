package org.ysteron.cli;

import org.ysteron.LakeHandle;
import picocli.CommandLine.Option;

/** What a commit says of itself. */
final class WriteOptions {
  @Option(
      names = "--note",
      paramLabel = "TEXT",
      defaultValue = "",
      description = "Note that is stored with the commit.")
  private String note;

  @Option(
      names = "--author",
      paramLabel = "NAME",
      defaultValue = "${env:YSTERON_AUTHOR:-${sys:user.name}}",
      description = "Author of the commit (default: $YSTERON_AUTHOR, or your user name).")
  private String author;

  LakeHandle applyTo(LakeHandle lake, String statement) {
    return lake.by(author, LakeCommand.PROGRAM).noting(note).because(statement);
  }
}
