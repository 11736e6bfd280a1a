package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.option.LakeSettings;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron settings}. */
@Command(
    name = "settings",
    description = {
      "List or change the settings of the lake.",
      "They apply to tables that have no setting of their own. Use 'alter --set' for the settings of a table."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron settings keep.for=P14D \"keep.thinned=day P3M\"")
final class LakeSettingsCommand extends LakeCommand {
  @Parameters(
      index = "0..*",
      arity = "0..*",
      paramLabel = "NAME=VALUE",
      description = "Settings to change (default: list all settings).")
  private Map<String, String> changes = new LinkedHashMap<>();

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    LakeHandle lake = write.applyTo(opened, "settings");
    changes.forEach((name, value) -> LakeSettings.DEFAULTS.with(name, value)); // all, or none
    changes.forEach(lake::set);
    LakeSettings now = lake.settings();
    Listing list = listing.listing(out(), "setting", "value", "is set");
    for (String name : LakeSettings.names()) {
      list.row(name, now.value(name), now.values().containsKey(name));
    }
    list.end();
  }
}
