package org.ysteron.cli;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.Table;
import org.ysteron.TableView;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Which version a command looks at. */
final class AtOption {
  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec;

  @Option(
      names = "--at",
      paramLabel = "VERSION|TIME|BOOKMARK",
      description =
          "Version to read: a version number; a time, such as 2026-03-01T12:00:00Z or 2026-03-01T12:00[Europe/Oslo]; an age, such as PT2H or P7D (ISO 8601 duration); or a bookmark, such as @before-the-fix (default: the newest version).")
  private String at;

  @Option(
      names = "--zone",
      paramLabel = "ZONE",
      description = "Time zone of times that have none (default: that of this machine).")
  private ZoneId zone;

  TableView view(LakeHandle lake, String table) {
    Table found = lake.table(table);
    if (at == null) {
      return found.now();
    }
    return TimeText.view(spec, "--at", at, zone, found);
  }

  /** Whether a version was asked for. */
  boolean isGiven() {
    return at != null;
  }

  /** The time that was asked for; empty when none was. */
  Optional<Instant> time() {
    return at == null ? Optional.empty() : Optional.of(TimeText.of(spec, "--at", at, zone));
  }

  /** The lake as it is looked at. */
  LakeView view(LakeHandle lake) {
    if (at == null) {
      return lake.now();
    }
    return TimeText.isBookmark(at)
        ? lake.atBookmark(at.substring(1))
        : lake.at(TimeText.of(spec, "--at", at, zone));
  }
}
