package org.ysteron.cli;

import java.time.ZoneId;
import java.util.List;
import org.ysteron.EditableTable;
import org.ysteron.LakeHandle;
import org.ysteron.Rewind;
import org.ysteron.Table;
import org.ysteron.TableView;
import org.ysteron.report.WriteResult;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron rewind}. */
@Command(
    name = "rewind",
    customSynopsis = "ysteron rewind TABLE... --to VERSION|TIME|BOOKMARK [OPTIONS]",
    description = {
      "Make an earlier version of a table current again.",
      "This creates a new version; later versions stay readable, and data files are not rewritten. Several tables can be rewound together to the same time."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron rewind tide.readings --to 28 --note \"it forgot its WHERE\"")
final class RewindCommand extends LakeCommand {
  @Spec private CommandSpec spec;

  @Parameters(arity = "1..*", paramLabel = "TABLE", description = "Table names.")
  private List<String> tables;

  @Option(
      names = "--to",
      required = true,
      paramLabel = "VERSION|TIME|BOOKMARK",
      description =
          "Version to return to: a version number, a time, a duration or a @bookmark, as for scan --at.")
  private String to;

  @Option(
      names = "--zone",
      paramLabel = "ZONE",
      description = "Time zone of times that have none (default: that of this machine).")
  private ZoneId zone;

  @Option(
      names = "--writer",
      paramLabel = "NAME=NUMBER",
      description =
          "Accept the numbers of this named writer from NUMBER on again. Without it, rows that were rewound are not applied when the writer sends them a second time.")
  private String writer;

  @Mixin private DryRunOption dryRun;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    LakeHandle lake = write.applyTo(opened, "rewind " + String.join(" ", tables) + " to " + to);
    boolean byNumber = TimeText.isVersion(to) || TimeText.isBookmark(to);
    if (tables.size() > 1 && (byNumber || writer != null)) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "Several tables are rewound to a time, and without --writer; versions and writers are of one table.");
    }
    if (dryRun.isOn()) {
      tables.forEach(name -> dryRun(lake.table(name)));
      return;
    }
    WriteResult result =
        tables.size() > 1
            ? lake.rewind(TimeText.of(spec, "--to", to, zone), tables)
            : one(lake.table(tables.get(0)));
    for (String name : tables) {
      Table table = lake.table(name);
      Long version = result.versions().get(table.id());
      out()
          .println(
              version == null
                  ? name + " is at that version: nothing was changed."
                  : told(table.at(version), result));
    }
  }

  private void dryRun(Table table) {
    TableView now = table.now();
    TableView then = TimeText.view(spec, "--to", to, zone, table);
    one(table.dryRun(), then);
    out()
        .println(
            DryRunOption.NOTHING
                + "%s would go back from version %d to %d: %d rows in %d files instead of %d in %d."
                    .formatted(
                        table.name(),
                        now.version(),
                        then.version(),
                        then.record().totals().rows(),
                        then.record().totals().files(),
                        now.record().totals().rows(),
                        now.record().totals().files()));
  }

  private WriteResult one(Table table) {
    return one(table, TimeText.view(spec, "--to", to, zone, table));
  }

  private WriteResult one(EditableTable table, TableView then) {
    Rewind rewind = table.rewind().to(then.version());
    if (writer != null) {
      rewind = fromNumber(rewind);
    }
    return rewind.run();
  }

  private Rewind fromNumber(Rewind rewind) {
    int at = writer.lastIndexOf('=');
    try {
      if (at == 0) {
        throw new NumberFormatException("no name");
      }
      return rewind.writerFrom(writer.substring(0, at), Long.parseLong(writer.substring(at + 1)));
    } catch (NumberFormatException | IndexOutOfBoundsException e) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "Invalid value for option '--writer': '%s' is no NAME=NUMBER".formatted(writer),
          e);
    }
  }

  private static String told(TableView now, WriteResult result) {
    return "Rewound %s to version %d: version %d, entry %d. It has %s in %s again. Versions up to %d stay readable."
        .formatted(
            now.name(),
            now.record().rewoundTo().orElseThrow(),
            now.version(),
            result.entry().orElseThrow(),
            Listing.count(now.record().totals().rows(), "row", "rows"),
            Listing.count(now.record().totals().files(), "file", "files"),
            now.version() - 1);
  }
}
