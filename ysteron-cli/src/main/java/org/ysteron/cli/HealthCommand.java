package org.ysteron.cli;

import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.internal.text.Visible;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.report.TableInfo;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron health}. */
@Command(
    name = "health",
    description = {
      "Show the state of the tables' files, and which maintenance would help.",
      "Each suggestion has its cost in bytes to read, and its gain. The command also shows which versions expire when, which files wait for a sweep, and whether clocks are wrong. Data files are not opened."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron health tide.readings")
final class HealthCommand extends LakeCommand {
  @Parameters(
      index = "0..*",
      arity = "0..*",
      paramLabel = "TABLE",
      description = "Table names (default: all tables).")
  private List<String> tables = List.of();

  @Option(names = "--of-lake", description = "Show only the maintenance of the lake as a whole.")
  private boolean ofLake;

  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    if (ofLake) {
      tellLake(opened.health());
      return;
    }
    List<String> names =
        tables.isEmpty() ? opened.now().tables().stream().map(TableInfo::name).toList() : tables;
    if (names.isEmpty() && listing.isText()) {
      out().println("The lake has no tables yet.");
      return;
    }
    if (listing.isText()) {
      LakeHealth lake = opened.health();
      for (String name : names) {
        tell(opened.table(name).health());
        tell(lake.tables().get(name));
      }
      tellLake(lake);
      return;
    }
    Listing list =
        listing.listing(
            out(),
            "table",
            "version",
            "files",
            "rows",
            "bytes",
            "bytes of older versions",
            "metadata height",
            "metadata pages",
            "metadata bytes",
            "openings",
            "keeps",
            "versions",
            "versions due",
            "versions due in a day",
            "versions due in a week",
            "versions due in a month",
            "findings");
    LakeHealth lake = opened.health();
    for (String name : names) {
      TableHealth health = opened.table(name).health();
      LakeHealth.Forecast forecast = lake.tables().get(name);
      list.row(
          health.table(),
          health.version(),
          health.totals().files(),
          health.totals().rows(),
          health.totals().bytes(),
          health.olderBytes(),
          health.metadata().height(),
          health.metadata().pages(),
          health.metadata().bytes(),
          health.openings().stream()
              .map(opening -> Map.of("columns", opening.columns(), "files", opening.files()))
              .toList(),
          forecast.rules(),
          forecast.kept(),
          forecast.dueNow(),
          forecast.inADay(),
          forecast.inAWeek(),
          forecast.inAMonth(),
          health.findings().stream().map(HealthCommand::members).toList());
    }
    list.end();
  }

  private static Map<String, Object> members(TableHealth.Finding finding) {
    Map<String, Object> members = new LinkedHashMap<>();
    members.put("kind", finding.kind().name().toLowerCase(Locale.ROOT));
    members.put("files", finding.files());
    members.put("bytes", finding.bytes());
    members.put("rows", finding.rows());
    members.put("help", finding.kind().help());
    members.put("cost_bytes", finding.costBytes());
    members.put("saves_files", finding.savesFiles());
    members.put("saves_bytes", finding.savesBytes());
    return members;
  }

  private void tell(TableHealth health) {
    out()
        .println(
            "%s, version %d: %s in %s (%s). Metadata: %s in %s, tree height %d. Files that only earlier versions or no version use: %s."
                .formatted(
                    health.table(),
                    health.version(),
                    Listing.count(health.totals().rows(), "row", "rows"),
                    Listing.count(health.totals().files(), "file", "files"),
                    Listing.bytes(health.totals().bytes()),
                    Listing.bytes(health.metadata().bytes()),
                    Listing.count(health.metadata().pages(), "page", "pages"),
                    health.metadata().height(),
                    Listing.bytes(health.olderBytes())));
    for (TableHealth.Opening opening : health.openings()) {
      out()
          .println(
              "A filter on 1/32 of the values of %s opens %.1f files on average."
                  .formatted(String.join(" and of ", opening.columns()), opening.files()));
    }
    if (health.findings().isEmpty()) {
      return;
    }
    Listing list =
        listing.listing(out(), "files", "bytes", "rows", "what", "help", "reads", "saves");
    for (TableHealth.Finding finding : health.findings()) {
      boolean helps = finding.costBytes() > 0;
      list.row(
          finding.files(),
          Listing.bytes(finding.bytes()),
          finding.rows(),
          finding.kind().words(),
          helps ? "ysteron " + finding.kind().help() + " " + health.table() : "not worth it yet",
          helps ? Listing.bytes(finding.costBytes()) : "",
          helps ? saves(finding) : "");
    }
    list.end();
  }

  private void tell(LakeHealth.Forecast forecast) {
    String due = due(forecast);
    out()
        .println(
            "Rule: keep %s. Of %s %s."
                .formatted(
                    forecast.rules(), Listing.count(forecast.kept(), "version", "versions"), due));
  }

  /** When versions expire; what says no more than what stands before it is left out. */
  private static String due(LakeHealth.Forecast forecast) {
    if (forecast.inAMonth() == 0) {
      return "none expires within a month";
    }
    List<String> words = new ArrayList<>();
    long before = forecast.dueNow();
    if (before > 0) {
      words.add(Listing.number(before) + " expire now");
    }
    long[] later = {forecast.inADay(), forecast.inAWeek(), forecast.inAMonth()};
    String[] spans = {"a day", "a week", "a month"};
    for (int i = 0; i < later.length; i++) {
      if (later[i] > before) {
        String verb = words.isEmpty() ? " expire" : "";
        words.add("%s%s within %s".formatted(Listing.number(later[i]), verb, spans[i]));
        before = later[i];
      }
    }
    return String.join(", ", words);
  }

  private void tellLake(LakeHealth lake) {
    if (!listing.isText()) {
      Listing list =
          listing.listing(
              out(),
              "horizon",
              "floor",
              "entries",
              "holds",
              "free objects",
              "free bytes",
              "free until",
              "erasures",
              "clock ahead until",
              "recent entries",
              "recent entries behind");
      list.row(
          lake.horizon(),
          lake.floor(),
          lake.entries(),
          lake.holds(),
          lake.free().objects(),
          lake.free().bytes(),
          lake.freeUntil().orElse(null),
          lake.erasures().stream().map(HealthCommand::members).toList(),
          lake.clocks().ahead().orElse(null),
          lake.clocks().of(),
          lake.clocks().behind());
      list.end();
      return;
    }
    out()
        .println(
            "Lake: %s from entry %d on; %s; %s"
                .formatted(
                    Listing.count(lake.entries(), "entry", "entries"),
                    lake.floor(),
                    Listing.count(lake.holds(), "hold", "holds") + " (bookmarks and positions)",
                    lake.freeUntil()
                        .map(
                            until ->
                                "%s (%s) can be swept; a sweep from %s on deletes all of them."
                                    .formatted(
                                        Listing.count(lake.free().objects(), "object", "objects"),
                                        Listing.bytes(lake.free().bytes()),
                                        until.truncatedTo(ChronoUnit.SECONDS)))
                        .orElse("nothing waits for a sweep.")));
    tell(lake.clocks());
    lake.erasures().forEach(erasure -> out().println(words(erasure)));
  }

  private void tell(LakeHealth.Clocks clocks) {
    if (clocks.ahead().isPresent()) {
      out()
          .println(
              "The newest commit has the time %s, which is in the future: the clock of a writer was ahead. Until then versions of new commits do not expire by age. Correct that clock."
                  .formatted(clocks.ahead().get().truncatedTo(ChronoUnit.SECONDS)));
    } else if (clocks.behind() > 0) {
      out()
          .println(
              "%d of the newest %d entries come from writers whose clocks are behind. Their versions count as younger than they are. Correct these clocks."
                  .formatted(clocks.behind(), clocks.of()));
    }
  }

  /** That an erasure is not finished, and what to do. */
  static String words(LakeHealth.Erasure erasure) {
    return "An erasure of rows of table %s, started by %s on %s, is not finished: %s. Run it again with the same condition."
        .formatted(
            Visible.of(erasure.table()),
            Visible.of(erasure.author()),
            erasure.opened().truncatedTo(ChronoUnit.SECONDS),
            erasure.isCleared()
                ? "no version has the rows, but the store may still contain parts of them"
                : "versions still have the rows");
  }

  static Map<String, Object> members(LakeHealth.Erasure erasure) {
    Map<String, Object> members = new LinkedHashMap<>();
    members.put("table", erasure.table());
    members.put("begun", erasure.opened());
    members.put("author", erasure.author());
    members.put("is_cleared", erasure.isCleared());
    return members;
  }

  private static String saves(TableHealth.Finding finding) {
    if (finding.savesFiles() > 0) {
      return Listing.count(finding.savesFiles(), "file", "files");
    }
    return finding.savesBytes() > 0 ? Listing.bytes(finding.savesBytes()) : "";
  }
}
