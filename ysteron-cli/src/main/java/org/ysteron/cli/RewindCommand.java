package org.ysteron.cli;

import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import org.ysteron.Lake;
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
    description = {
      "Make an earlier version of a table current again, or several tables what they were together",
      "at one time. It is a new version: all later ones stay readable. No data file is touched."
    })
final class RewindCommand extends LakeCommand {
  @Spec private CommandSpec spec;

  @Parameters(arity = "1..*", paramLabel = "TABLE", description = "The tables.")
  private List<String> tables;

  @Option(
      names = "--to",
      required = true,
      paramLabel = "VERSION|TIME",
      description = {
        "The version, a number; or a time or duration, as --at of scan takes it. Several tables",
        "go back to a time."
      })
  private String to;

  @Option(
      names = "--zone",
      paramLabel = "ZONE",
      description = "The time zone of a time without one (default: this machine's).")
  private ZoneId zone;

  @Option(
      names = "--writer",
      paramLabel = "NAME=NUMBER",
      description = {
        "A named writer whose numbers from there on are to be applied again; else what was",
        "applied under them stays rewound, even if it comes a second time."
      })
  private String writer;

  @Mixin private WriteOptions write;

  @Override
  void run(Lake opened) {
    Lake lake = write.applyTo(opened, "rewind " + String.join(" ", tables) + " to " + to);
    boolean byNumber = to.matches("[0-9]+");
    if (tables.size() > 1 && (byNumber || writer != null)) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "Several tables are rewound to a time, and without --writer; versions and writers are of one table");
    }
    List<Long> before = tables.stream().map(name -> lake.table(name).now().version()).toList();
    WriteResult result =
        tables.size() > 1
            ? lake.rewind(TimeText.of(spec, "--to", to, zone), tables)
            : one(lake.table(tables.get(0)), byNumber);
    for (int i = 0; i < tables.size(); i++) {
      Table table = lake.table(tables.get(i));
      Long version = result.versions().get(table.id());
      if (version == null) {
        out().println("%s is at that version: nothing was changed.".formatted(tables.get(i)));
      } else {
        out().println(told(table.at(version), before.get(i), result));
      }
    }
  }

  private WriteResult one(Table table, boolean byNumber) {
    Rewind rewind = table.rewind();
    if (byNumber) {
      rewind = rewind.to(number(to, "--to"));
    } else {
      Instant time = TimeText.of(spec, "--to", to, zone);
      rewind = rewind.to(time);
    }
    if (writer != null) {
      int at = writer.lastIndexOf('=');
      if (at < 1) {
        throw new CommandLine.ParameterException(
            spec.commandLine(), "Invalid value for option '--writer': it is NAME=NUMBER");
      }
      rewind =
          rewind.writerFrom(writer.substring(0, at), number(writer.substring(at + 1), "--writer"));
    }
    return rewind.run();
  }

  private long number(String text, String option) {
    try {
      return Long.parseLong(text);
    } catch (NumberFormatException e) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "Invalid value for option '%s': '%s' is no number".formatted(option, text),
          e);
    }
  }

  private static String told(TableView now, long before, WriteResult result) {
    String rewound =
        "Rewound %s to version %d: version %d, entry %d. It has %s in %s again."
            .formatted(
                now.name(),
                now.record().rewoundTo().orElse(before),
                now.version(),
                result.entry().orElseThrow(),
                Listing.count(now.record().totals().rows(), "row", "rows"),
                Listing.count(now.record().totals().files(), "file", "files"));
    return rewound + " Versions up to %d stay readable.".formatted(now.version() - 1);
  }
}
