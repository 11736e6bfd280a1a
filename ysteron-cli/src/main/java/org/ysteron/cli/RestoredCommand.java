package org.ysteron.cli;

import org.ysteron.Lake;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron restored}. */
@Command(
    name = "restored",
    description = {
      "To be run once when a lake was put back from a copy, before anybody works with it.",
      "It refuses all work that was started on the lake that was lost, and may have files that are not in the copy. While a copy is put back nothing may sweep it, nor erase rows from it."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron restored")
final class RestoredCommand extends LakeCommand {
  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Lake lake = write.applyTo(opened, "restored");
    lake.restored();
    out()
        .println(
            "Entry %d: whatever was started before it is refused from now on. The lake may be worked with."
                .formatted(lake.now().commit().entry()));
  }
}
