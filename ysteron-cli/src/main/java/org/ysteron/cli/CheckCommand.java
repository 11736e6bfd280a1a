package org.ysteron.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Visible;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.proof.Finding;
import org.ysteron.proof.LakeCheck;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** {@code ysteron check}. */
@Command(
    name = "check",
    description = {
      "Check that the lake is complete and undamaged.",
      "Everything that the lake refers to must exist, must be what was written, and must agree with the rest. Nothing is changed, and others can work meanwhile. With --resume and a limit of time, files or bytes the check runs in slices: each starts after the last data file of the one before. Ledger entries and metadata pages are checked each time."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron check --depth bytes --time PT30M --resume checked.json")
final class CheckCommand extends LakeCommand {
  private static final int FOUND = 3;
  private static final String AFTER = "after";
  private static final String LAKE = "lake";
  private static final String DEPTH = "depth";

  @Option(
      names = "--depth",
      paramLabel = "DEPTH",
      defaultValue = "files",
      description =
          "metadata: ledger entries and metadata pages. files (default): also size, footer and row count of each data file. bytes: also every byte. rows: also the rows of the newest versions: ranges, serials, keys and checks.")
  private CheckDepth depth;

  @Option(
      names = "--resume",
      paramLabel = "FILE",
      description = "Start at the position that this file holds, and store the new position there.")
  private Path resume;

  @Mixin private BudgetOptions budget;
  @Mixin private Listing.Options listing;

  private int code;

  @Override
  public Integer call() {
    try {
      int failed = super.call();
      return failed == 0 ? code : failed;
    } catch (DamagedException e) {
      out().println("entry  the newest\n  " + Visible.lines(e.getMessage()));
      out().println("1 finding. The rest of the lake could not be checked because of it.");
      return FOUND;
    }
  }

  @Override
  void run(LakeHandle opened) {
    LakeCheck check = opened.check().depth(depth).within(budget.budget());
    String from = resume == null ? "" : position(opened);
    CheckReport report = (from.isEmpty() ? check : check.after(from)).run();
    if (resume != null) {
      note(report);
    }
    code = report.isWhole() ? 0 : FOUND;
    if (listing.isJson()) {
      Listing.object(out(), json(report));
    } else if (listing.isText()) {
      tell(report, from);
    } else {
      list(report);
    }
  }

  /** Where the last check ended, which must have been of this lake and to the same depth. */
  private String position(LakeHandle lake) {
    if (!Files.exists(resume)) {
      return "";
    }
    if (!(parsed(TextFiles.read(resume.toString(), "position of a check"))
            instanceof Map<?, ?> noted)
        || !(noted.get(AFTER) instanceof String after)
        || !(noted.get(LAKE) instanceof String of)
        || !(noted.get(DEPTH) instanceof String to)) {
      throw new InvalidInputException(
          "%s is not a position file of a check, and was not changed. Give another file, or one that does not exist."
              .formatted(resume));
    }
    if (!of.equals(lake.id().toString())) {
      throw new InvalidInputException(
          "%s is the position file of another lake, %s; this lake is %s. Nothing was checked. Give another file."
              .formatted(resume, of, lake.id()));
    }
    if (!after.isEmpty() && !to.equals(word(depth))) {
      throw new InvalidInputException(
          "%s is the position file of a check to the depth %s; this check is to the depth %s. Nothing was checked. Continue with --depth %s, or give another file."
              .formatted(resume, to, word(depth), to));
    }
    return after;
  }

  private static Object parsed(String text) {
    try {
      return Json.parse(text);
    } catch (InvalidInputException e) {
      return text;
    }
  }

  private void note(CheckReport report) {
    Map<String, Object> noted = new LinkedHashMap<>();
    noted.put(LAKE, report.lake().toString());
    noted.put("entry", report.entry());
    noted.put(DEPTH, word(report.depth()));
    noted.put(AFTER, report.position().orElse(""));
    try {
      TextFiles.replace(resume, Json.write(noted) + "\n");
    } catch (IOException e) {
      throw new InvalidInputException(
          "The position of the check could not be stored in %s: %s. The next check starts where this one started."
              .formatted(resume, TextFiles.reason(resume, e)),
          e);
    }
  }

  private void tell(CheckReport report, String from) {
    for (Finding finding : report.findings()) {
      out().println(word(finding.kind()) + "  " + Visible.of(finding.object()));
      out().println("  " + Visible.lines(finding.problem()));
      finding.affected().forEach(affected -> out().println("  " + Visible.of(words(affected))));
      out().println("  " + finding.remedy());
    }
    CheckReport.Counts counts = report.counts();
    out()
        .println(
            "%s: %s, %s, %s, %s, %s%s, %s read."
                .formatted(
                    result(report),
                    Listing.count(counts.tables(), "table", "tables"),
                    Listing.count(counts.versions(), "version", "versions"),
                    Listing.count(counts.entries(), "entry", "entries"),
                    Listing.count(counts.pages(), "page", "pages"),
                    Listing.count(counts.files(), "data file", "data files"),
                    counts.rows() == 0 ? "" : ", " + Listing.count(counts.rows(), "row", "rows"),
                    Listing.bytes(counts.bytes())));
    out()
        .println(
            "Depth: %s. State: entry %d of %s, with the SHA-256"
                .formatted(word(report.depth()), report.entry(), second(report.time())));
    out().println(report.hash());
    if (!from.isEmpty()) {
      out().println("Checked only the data files after\n" + from);
    }
    report.erasures().forEach(erasure -> out().println(HealthCommand.words(erasure)));
    if (counts.gone() > 0) {
      out()
          .println(
              "%s removed by others meanwhile."
                  .formatted(Listing.count(counts.gone(), "object was", "objects were")));
    }
    report
        .position()
        .ifPresent(
            last ->
                out().println("The limit was reached. Not checked: the data files after\n" + last));
  }

  private static String result(CheckReport report) {
    long all = report.findings().size() + report.unlisted();
    if (all == 0) {
      return "No damage";
    }
    String wrong = Listing.count(all, "finding", "findings");
    return report.unlisted() == 0
        ? wrong
        : "%s, of which the first %d are listed".formatted(wrong, report.findings().size());
  }

  private static String words(Finding.Affected affected) {
    String versions =
        affected.first() == affected.last()
            ? "version " + affected.first()
            : "versions %d to %d".formatted(affected.first(), affected.last());
    return "Concerns table %s, %s: %s of the %s, %s."
        .formatted(
            affected.table(),
            versions,
            Listing.count(affected.rows(), "row", "rows"),
            affected.first() == affected.last() ? "version" : "last",
            affected
                .until()
                .map(
                    until ->
                        "current from %s to %s".formatted(second(affected.from()), second(until)))
                .orElse("current since " + second(affected.from())));
  }

  private static Instant second(Instant time) {
    return time.truncatedTo(ChronoUnit.SECONDS);
  }

  private void list(CheckReport report) {
    Listing list = listing.listing(out(), "kind", "object", "problem", "remedy");
    for (Finding finding : report.findings()) {
      list.row(word(finding.kind()), finding.object(), finding.problem(), finding.remedy());
    }
    list.end();
  }

  private static String word(Enum<?> value) {
    return value.name().toLowerCase(Locale.ROOT);
  }

  private static Map<String, Object> json(CheckReport report) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("lake", report.lake());
    json.put("entry", report.entry());
    json.put("hash", report.hash());
    json.put("time", report.time());
    json.put("depth", word(report.depth()));
    json.put("is_whole", report.isWhole());
    CheckReport.Counts counts = report.counts();
    json.put("tables", counts.tables());
    json.put("versions", counts.versions());
    json.put("entries", counts.entries());
    json.put("pages", counts.pages());
    json.put("files", counts.files());
    json.put("bytes", counts.bytes());
    json.put("rows", counts.rows());
    json.put("removed_meanwhile", counts.gone());
    json.put("findings", report.findings().stream().map(CheckCommand::json).toList());
    json.put("unlisted", report.unlisted());
    json.put("erasures", report.erasures().stream().map(HealthCommand::members).toList());
    json.put("position", report.position());
    return json;
  }

  private static Map<String, Object> json(Finding finding) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("kind", word(finding.kind()));
    json.put("object", finding.object());
    json.put("problem", finding.problem());
    json.put("affected", finding.affected().stream().map(CheckCommand::json).toList());
    json.put("remedy", finding.remedy());
    return json;
  }

  private static Map<String, Object> json(Finding.Affected affected) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("table", affected.table());
    json.put("first_version", affected.first());
    json.put("last_version", affected.last());
    json.put("rows", affected.rows());
    json.put("from", affected.from());
    json.put("until", affected.until());
    return json;
  }
}
