package org.ysteron.cli;

import org.ysteron.LakeHandle;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron confirm-restore}. */
@Command(
    name = "confirm-restore",
    description = {
      "Confirm that the lake was restored from a copy.",
      "Run it once, before anybody works with the lake. Work that was started on the lost lake may refer to files that are not in the copy; it is refused from now on. Do not sweep or erase while the copy is being restored."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron confirm-restore")
final class ConfirmRestoreCommand extends LakeCommand {
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    LakeHandle lake = write.applyTo(opened, "confirm-restore");
    lake.confirmRestore();
    out()
        .println(
            "Restore confirmed with entry %d. Work that was started before it is refused. The lake is ready to use."
                .formatted(lake.now().commit().entry()));
  }
}
