package org.ysteron.cli;

import java.util.stream.Collectors;
import org.ysteron.LakeHandle;
import org.ysteron.report.LeftoverKey;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron leftovers}. */
@Command(
    name = "leftovers",
    description = "List values that were set aside because the table has no column for them.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron leftovers tide.readings")
final class LeftoversCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    Listing list = listing.listing(out(), "key", "rows", "types", "since version", "samples");
    for (LeftoverKey key : opened.table(table).leftovers()) {
      String types =
          key.types().entrySet().stream()
              .map(type -> type.getKey() + " × " + type.getValue())
              .collect(Collectors.joining(", "));
      if (listing.isText()) {
        list.row(key.path(), key.rows(), types, key.since(), String.join(", ", key.samples()));
      } else {
        list.row(key.path(), key.rows(), key.types(), key.since(), key.samples());
      }
    }
    list.end();
  }
}
